/** The secret part of an address that was given to somebody. It stands after the #, which goes to no server. */
export const linkToken = (): string => window.location.hash.slice(1)

/** It is in nobody's history from now on. */
export const hideToken = (): void =>
  window.history.replaceState(window.history.state, '', window.location.pathname)
