/** What a model's call gives, as repositories promise it. */

/** Plain rows, as `within` makes them: of the attributes that were asked for. */
export const plain = <T>(rows: Promise<unknown>): Promise<T> => rows as Promise<T>

/** How many rows an update changed. */
export const changed = (update: Promise<[affected: number]>): Promise<number> =>
  update.then(([affected]) => affected)
