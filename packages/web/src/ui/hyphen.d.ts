/** The package comes without types. */
declare module 'hyphen/en-gb' {
  const hyphen: { hyphenateSync: (text: string, options?: { minWordLength?: number }) => string }
  export default hyphen
}
