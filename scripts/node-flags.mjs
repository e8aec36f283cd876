/**
 * How Node.js runs what was built. A reading makes many objects that live for a moment: with more room for the young
 * ones (16 MB by default), they are cleared away half as often.
 */
export const nodeFlags = ['--enable-source-maps', '--max-semi-space-size=32']
