/** Our own reference, where it stands in the notes because the service has no place for one. */

export const markerOf = (uid: string): string => `[loom ${encodeURIComponent(uid)}]`

const MARKER = /\n*\[loom ([^\]\s]+)\]\s*$/

/** Notes without our marker, and the reference in it. An edited marker does not count. */
export function withoutMarker(notes: string): { notes: string; uid: string } {
  const marked = MARKER.exec(notes)
  return marked ? { notes: notes.slice(0, marked.index), uid: decoded(marked[1]) } : { notes, uid: '' }
}

function decoded(marker: string | undefined): string {
  try {
    return marker ? decodeURIComponent(marker) : ''
  } catch {
    return ''
  }
}
