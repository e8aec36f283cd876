/** The mark before an event's title that says its work is done. */

/** An event's title without the marks before it. */
export function splitMark(summary: string, mark: string): { marked: boolean; title: string } {
  let rest = summary
  while (rest.trimStart().startsWith(mark)) {
    rest = rest.trimStart().slice(mark.length)
    // One space is the mark's; any more belong to the title.
    if (rest.startsWith(' ')) rest = rest.slice(1)
  }
  return { marked: rest !== summary, title: rest }
}

export const withMark = (title: string, marked: boolean, mark: string): string =>
  marked ? `${mark} ${title}` : title
