declare const raw: unique symbol

/**
 * An item as the database holds it, complete for everybody. Computation uses it like any other item; what a person
 * may see of it is decided before it is sent.
 */
export type Raw<I> = I & { readonly [raw]: true }
