/** Whether a key is for the page: nobody is typing, nothing is open before it, and the browser has no use for it. */
export function isForPage(event: KeyboardEvent): boolean {
  if (event.ctrlKey || event.metaKey || event.altKey) return false
  return !(event.target as HTMLElement).closest(
    'input:not([type="checkbox"], [type="radio"]), textarea, select, [role="dialog"], [contenteditable]',
  )
}
