/** Who an account is at its service, so that the same one is recognised. Filled in when a connection is next asked. */
export const up: string[] = ['ALTER TABLE connections ADD account_subject TEXT NULL, ALGORITHM=INSTANT']
