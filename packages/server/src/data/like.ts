/** For LIKE: what somebody types is text, whatever is in it. */
export const containing = (text: string): string =>
  `%${text.toLowerCase().replace(/[\\%_]/g, c => `\\${c}`)}%`
