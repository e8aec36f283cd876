/** Escapes typed text for LIKE. */
export const containing = (text: string): string =>
  `%${text.toLowerCase().replace(/[\\%_]/g, c => `\\${c}`)}%`
