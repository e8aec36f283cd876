/** A text in pieces: what stands for a person who is named, and what lies between. Of two names the longer counts. */
export function inPieces(text: string, named: readonly string[]): { text: string; isName: boolean }[] {
  if (named.length === 0) return [{ text, isName: false }]
  const escaped = [...named]
    .sort((a, b) => b.length - a.length)
    .map(n => n.replace(/[\\^$.*+?()[\]{}|/-]/g, String.raw`\$&`))
  const pieces = text.split(new RegExp(`(@(?:${escaped.join('|')}))`, 'iu'))
  // What is matched stands at every second place.
  return pieces.flatMap((piece, i) => (piece === '' ? [] : [{ text: piece, isName: i % 2 === 1 }]))
}
