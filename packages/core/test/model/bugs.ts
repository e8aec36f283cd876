import type { Decision, Item, ItemPatch, Rule, RuleSettings } from '../../src/index.ts'

/** Mistakes that have been made by others, planted one at a time to see that the model would notice them here. */
export const BUGS = [
  'writes without a precondition',
  'makes a new id for each try',
  'takes whatever it reads after a write for its own',
  'takes what it hopes for as agreed',
  'takes what it sent for what was kept',
  'forgets what it is making',
  'trusts a listing that leaves something out',
  'takes changes soon after its own write for an echo',
  'forgets that a pair has ended',
  'plans what is under way once more',
  'compares the two sides with each other, not with what they agreed on',
  'gives up after one failed try',
  'calls done what never arrived',
  'lets the older of two edits win',
  'believes the clock of the service',
  'takes a local time for another zone’s',
  'lets moved events grow back to their default length',
  'marks what is marked already',
  'takes only one side’s deletion to heart',
  'makes its ties anew when the rule is edited',
  'puts back without holding apart',
  'answers in place of the person',
  'reads a one-way field both ways',
  'does not follow ties round a ring',
  'names other fields in the journal than it wrote',
  'takes a round that is over for a date that was moved',
  'takes what was moved for deleted',
  'takes a copy that it knew for what was moved',
  'plans with a newcomer before it knows where that comes from',
  'believes a listing that is old',
  'deletes what it may no longer see',
  'commits what it planned before another server took over',
  'overwrites what was edited since a person looked',
  'pulls to and fro for ever',
  'takes a mark for an edit of the title',
  'makes again what is not listed yet',
  'raises the base of both sides at the first of two confirmations',
  'raises the base of each side by itself',
  'lets a deletion beat an edit of what it would remove',
  'takes what is back for nobody’s new item',
  'merges on what was agreed before a deletion when the item is back',
  'takes what stood there before for new',
  'forgets what was put back when the rule is edited',
  'takes the uid alone for identity',
  'lets a restored backup win',
  'takes what went for a deletion for what was deleted',
  'takes the day of an event where that is, not where the rule is',
] as const
/** Planted where private matters are tried (private.test.ts): the model's histories know none. */
export const BUSY_BACK = 'lets “Busy” travel back'
export type Bug = (typeof BUGS)[number] | typeof BUSY_BACK

/** Faults of the mapping, as another product had them. */
export function spoilt(bug: Bug | null, rule: Rule, d: Decision): Decision {
  switch (bug) {
    case 'takes only one side’s deletion to heart':
      return { ...d, writes: d.writes.filter(w => w.op !== 'delete') }
    case 'takes a local time for another zone’s':
      return eachItem(d, item =>
        item.kind === 'event' && item.time.anchor.kind === 'zoned'
          ? { ...item, time: { ...item.time, anchor: { ...item.time.anchor, zone: 'Asia/Kathmandu' } } }
          : item,
      )
    case 'lets moved events grow back to their default length':
      return eachPatch(d, p =>
        p.time ? { ...p, time: { ...p.time, minutes: rule.settings.defaultMinutes } } : p,
      )
    case 'marks what is marked already':
      return eachPatch(d, p => (p.summary?.startsWith('✓ ') ? { ...p, summary: `✓ ${p.summary}` } : p))
    case 'lets the older of two edits win': {
      // What won gives way to what lost.
      const newer = d.overridden.find(o => o.because === 'newer')
      return newer ? { ...d, writes: [], overridden: [] } : d
    }
    case 'names other fields in the journal than it wrote':
      return {
        ...d,
        writes: d.writes.map(w => (w.op === 'patch' ? { ...w, fields: w.fields.slice(1) } : w)),
      }
    default:
      return d
  }
}

export const bothWays = (rule: Rule): Rule => ({
  ...rule,
  settings: {
    ...rule.settings,
    fields: Object.fromEntries(
      Object.entries(rule.settings.fields).map(([f, d]) => [f, d === 'off' ? d : 'both']),
    ) as RuleSettings['fields'],
  },
})
const eachPatch = (d: Decision, change: (p: ItemPatch) => ItemPatch): Decision => ({
  ...d,
  writes: d.writes.map(w => (w.op === 'patch' ? { ...w, patch: change(w.patch) as typeof w.patch } : w)),
})
const eachItem = (d: Decision, change: (i: Item) => Item): Decision => ({
  ...d,
  writes: d.writes.map(w => (w.op === 'create' ? { ...w, item: change(w.item) } : w)),
})
