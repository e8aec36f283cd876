import type { Temporal as Polyfilled } from 'temporal-polyfill'

/** Where the browser has it, its own (TC39 Temporal, stage 4), and 60 kB less to be read before anything is drawn. */
const own = (globalThis as { Temporal?: typeof Polyfilled }).Temporal
export const Temporal = own ?? (await import('temporal-polyfill/implementation')).Temporal
