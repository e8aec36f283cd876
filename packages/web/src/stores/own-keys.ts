/** Whether a key press is for the page: no field has the focus and no dialog is open. */
export const isAtPage = (event: KeyboardEvent): boolean =>
  !(event.target as HTMLElement).closest(
    'input:not([type="checkbox"], [type="radio"]), textarea, select, [role="dialog"], [contenteditable]',
  )

/** Whether a key is for the page, and the browser has no use for it. */
export const isForPage = (event: KeyboardEvent): boolean =>
  !event.ctrlKey && !event.metaKey && !event.altKey && isAtPage(event)

/** The system's own key for taking back; in a field it is the field's. */
export const isUndo = (event: KeyboardEvent): boolean =>
  event.key === 'z' && (event.ctrlKey || event.metaKey) && !event.shiftKey && !event.altKey && isAtPage(event)
