/**
 * When a row was last written, kept by the database itself: what was read of a row is still good while this is the
 * same. The items of a week, and whether they were touched since, are read from the index alone.
 */
const TOUCHED =
  'ADD touched TIMESTAMP(6) NOT NULL DEFAULT CURRENT_TIMESTAMP(6) ON UPDATE CURRENT_TIMESTAMP(6)'

export const up: string[] = [
  `ALTER TABLE mirrors ${TOUCHED}`,
  `ALTER TABLE own_layer ${TOUCHED}`,
  `ALTER TABLE mirrors
    DROP KEY in_time,
    ADD KEY in_time (workspace_id, presence, start_ms, end_ms, collection_id, series_id, touched)`,
]
