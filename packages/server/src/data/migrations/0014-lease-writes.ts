/** Each commit under a lease writes to it: an UPDATE that changes nothing counts no row. */
export const up: string[] = ['ALTER TABLE leases ADD writes BIGINT NOT NULL DEFAULT 0, ALGORITHM=INSTANT']
