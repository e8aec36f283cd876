declare const raw: unique symbol

/**
 * An item as the database holds it: whole, whoever asks. It is an item like any other to whatever computes; what of it
 * somebody may see is decided by who they are, before it is sent.
 */
export type Raw<I> = I & { readonly [raw]: true }
