import type { Temporal as Polyfilled } from 'temporal-polyfill'

/** The browser's own Temporal (TC39 stage 4) if there is one, which saves loading 60 kB. */
const own = (globalThis as { Temporal?: typeof Polyfilled }).Temporal
export const Temporal = own ?? (await import('temporal-polyfill/implementation')).Temporal
