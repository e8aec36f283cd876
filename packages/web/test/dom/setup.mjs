// Loaded before component tests: a DOM without a browser, and .vue files as modules.
import { register } from 'node:module'
import { Window } from 'happy-dom'

const window = new Window({ url: 'http://127.0.0.1/cloth', width: 1280, height: 800 })
// What the browser has and Node.js has not, or has otherwise; Node.js keeps its own timers and text coding.
const KEPT = new Set([
  'globalThis',
  'console',
  'process',
  'performance',
  'queueMicrotask',
  'URL',
  'URLSearchParams',
])
for (const name of Object.getOwnPropertyNames(window)) {
  if (KEPT.has(name) || /^(set|clear)(Timeout|Interval|Immediate)$/.test(name)) continue
  if (name in globalThis && !/^(\w*Event|EventTarget|navigator)$/.test(name)) continue
  Object.defineProperty(globalThis, name, { value: window[name], configurable: true, writable: true })
}
globalThis.window = window
register('./vue-files.mjs', import.meta.url)

// The top layer is the browser's: here a popover is shown wherever it stands.
for (const name of ['showPopover', 'hidePopover']) window.HTMLElement.prototype[name] ??= () => undefined
