import type { RuleSettings } from '../../src/index.ts'

/** Who takes part: what the first side calls private does not. */
export const withoutPrivate: RuleSettings['filter'] = {
  a: [{ field: 'words', of: ['private'], without: true }],
  b: [],
}
