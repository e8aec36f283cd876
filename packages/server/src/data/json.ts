declare const holds: unique symbol

/**
 * A column's text that holds a T as JSON. It was a T when it was written, and only we write it, so it is one when it
 * is read; a row stays text until somebody wants what is in it, as most of what is read is not.
 */
export type Json<T> = string & { readonly [holds]: T }

export const parsed = <T>(text: Json<T>): T => JSON.parse(text) as T

export const json = <T>(value: T): Json<T> => JSON.stringify(value) as Json<T>
