/** A secret address can be one for calendar programs as well: it opens that and no page. */
export const up: string[] = [
  `ALTER TABLE links
     ADD opens VARCHAR(12) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT 'page',
     ADD tasks_as VARCHAR(8) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT 'events'`,
]
