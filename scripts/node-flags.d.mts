export const nodeFlags: readonly string[]
