import { z } from 'zod'
import { isKnownZone } from '../time/when.ts'
import { QUARTER_MINUTES } from './quarter.ts'

/** What of somebody's time is offered to guests, and on which terms. */

/** It stands in titles, and in the heads of letters. */
const OneLine = z
  .string()
  .trim()
  .regex(/^\P{Cc}*$/u, 'Write it on one line.')
const Quarters = z.number().int().multipleOf(QUARTER_MINUTES)
const Instant = z.number().int().min(0).max(8_640_000_000_000_000)

const Span = z
  .object({ fromMs: Instant, toMs: Instant })
  .refine(s => s.fromMs < s.toMs, 'A span ends before it begins.')

const Hours = z
  .object({
    /** ISO. */
    weekdays: z.array(z.number().int().min(1).max(7)).min(1).max(7),
    /** Minutes after midnight. */
    start: Quarters.min(0).max(1440),
    end: Quarters.min(0).max(1440),
  })
  .refine(h => h.start < h.end, 'Hours end before they begin.')

export const OfferTerms = z.object({
  title: OneLine.min(1, 'Say what it is about.').max(200),
  /** Minutes, among which the guest chooses. */
  lengths: z.array(Quarters.min(15).max(480)).min(1).max(5),
  /** Of several hosts one, whoever is free; or all of them together. */
  how: z.enum(['any', 'all']),
  /** Minutes that stay free around it. */
  before: Quarters.min(0).max(120),
  after: Quarters.min(0).max(120),
  noticeHours: z.number().int().min(0).max(336),
  /** Bookings of one day; null: as many as there is room for. */
  mostPerDay: z.number().int().min(1).max(20).nullable(),
  /** Movable work that presses less counts as free, and gives way; null: none does. */
  givesWay: z.number().int().min(1).max(100).nullable().default(null),
  location: OneLine.max(300),
  callLink: z.union([
    z.literal(''),
    z.url({ protocol: /^https$/, error: 'A call link begins with https://.' }).max(1000),
  ]),
  questions: z.array(z.object({ text: z.string().trim().min(1).max(200), needed: z.boolean() })).max(5),
  /** In which its hours are told, and its days counted. */
  zone: z.string().max(64).refine(isKnownZone, 'There is no such time zone.'),
  when: z.discriminatedUnion('kind', [
    z.object({ kind: z.literal('spans'), spans: z.array(Span).min(1).max(60) }),
    /** Every week, so many weeks ahead. */
    z.object({
      kind: z.literal('hours'),
      hours: z.array(Hours).min(1).max(20),
      weeks: z.number().int().min(1).max(26),
    }),
  ]),
})
export type OfferTerms = z.infer<typeof OfferTerms>

/** What a guest says of themselves and of the meeting. */
export const GuestWords = z.object({
  name: OneLine.min(1, 'Say your name.').max(100),
  address: z.email('This is no mail address.').max(254),
  message: z.string().trim().max(2000),
  answers: z.array(z.string().trim().max(1000)).max(5),
  /** Where both are offered: at the place, or by a call. */
  by: z.enum(['place', 'call']),
  zone: z.string().max(64),
})
export type GuestWords = z.infer<typeof GuestWords>

/** The question that is still to be answered, or null. */
export const unanswered = (
  { questions }: Pick<OfferTerms, 'questions'>,
  { answers }: GuestWords,
): string | null => questions.find((q, n) => q.needed && !answers[n])?.text ?? null

/** Where it takes place, by what the guest has chosen. */
export const placeOfMeeting = (
  { location, callLink }: Pick<OfferTerms, 'location' | 'callLink'>,
  { by }: Pick<GuestWords, 'by'>,
): string => (location !== '' && (by === 'place' || callLink === '') ? location : callLink)
