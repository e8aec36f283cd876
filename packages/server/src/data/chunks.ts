/** Parts of a long list, each short enough for one statement. */
export function* chunks<T>(list: readonly T[], size = 1000): Generator<T[]> {
  for (let i = 0; i < list.length; i += size) yield list.slice(i, i + size)
}
