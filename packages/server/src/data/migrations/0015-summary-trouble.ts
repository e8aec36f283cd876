/** Why a daily summary was not sent, for whoever waits for it, and when it is tried again. */
export const up: string[] = [
  `ALTER TABLE members
    ADD summary_trouble VARCHAR(200) NULL,
    ADD summary_failures INT NOT NULL DEFAULT 0,
    ADD summary_next_at BIGINT NOT NULL DEFAULT 0,
    ALGORITHM=INSTANT`,
]
