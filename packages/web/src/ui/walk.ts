/** The focus goes to the next button of a list, or the one before, and round its ends. */
export function walk(list: Element | null | undefined, by: 1 | -1): void {
  const buttons = [...(list?.querySelectorAll<HTMLElement>('button') ?? [])]
  const now = buttons.findIndex(b => b === document.activeElement)
  buttons[(now + by + buttons.length) % buttons.length]?.focus()
}
