/** The smallest time that is held; every beginning and length is a multiple of it. Minutes. */
export const QUARTER_MINUTES = 15
