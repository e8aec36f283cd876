declare const holds: unique symbol

/**
 * A column that holds a T as JSON. Only we write it, so it needs no check when it is read. It stays text until
 * somebody needs the value, because most rows that are read are not looked into.
 */
export type Json<T> = string & { readonly [holds]: T }

export const parsed = <T>(text: Json<T>): T => JSON.parse(text) as T

export const json = <T>(value: T): Json<T> => JSON.stringify(value) as Json<T>
