/** What stands under a name that came from outside: `constructor` and its like stand in every object, and are none. */
export const ofOwn = <T>(record: Readonly<Record<string, T>>, name: string): T | undefined =>
  Object.hasOwn(record, name) ? record[name] : undefined
