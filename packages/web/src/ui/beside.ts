const EDGE = 8

/**
 * Where something that floats goes, px: below what it is about, above it where there is more room, and within the window
 * whatever that is. The left and upper edges come first: whoever cannot see them cannot tell what it is.
 */
export function beside(
  at: Pick<DOMRect, 'left' | 'top' | 'bottom'>,
  size: { width: number; height: number },
  window: { innerWidth: number; innerHeight: number },
): { left: string; top: string } {
  const within = (wanted: number, length: number, all: number): number =>
    Math.max(EDGE, Math.min(wanted, all - length - EDGE))
  const below = at.bottom + 4
  const above = at.top - size.height - 4
  const top = below + size.height > window.innerHeight && above >= EDGE ? above : below
  return {
    left: `${within(at.left, size.width, window.innerWidth)}px`,
    top: `${within(top, size.height, window.innerHeight)}px`,
  }
}
