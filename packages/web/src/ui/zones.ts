/**
 * Time zones to choose from. The browser gives old names for some places (those of CLDR); people see today's name
 * of the zone database and can also search by the old one.
 */
const TODAY: Record<string, string> = {
  'Africa/Asmera': 'Africa/Asmara',
  'America/Buenos_Aires': 'America/Argentina/Buenos_Aires',
  'America/Catamarca': 'America/Argentina/Catamarca',
  'America/Coral_Harbour': 'America/Atikokan',
  'America/Cordoba': 'America/Argentina/Cordoba',
  'America/Godthab': 'America/Nuuk',
  'America/Indianapolis': 'America/Indiana/Indianapolis',
  'America/Jujuy': 'America/Argentina/Jujuy',
  'America/Louisville': 'America/Kentucky/Louisville',
  'America/Mendoza': 'America/Argentina/Mendoza',
  'Asia/Calcutta': 'Asia/Kolkata',
  'Asia/Katmandu': 'Asia/Kathmandu',
  'Asia/Rangoon': 'Asia/Yangon',
  'Asia/Saigon': 'Asia/Ho_Chi_Minh',
  'Atlantic/Faeroe': 'Atlantic/Faroe',
  'Europe/Kiev': 'Europe/Kyiv',
  'Pacific/Enderbury': 'Pacific/Kanton',
  'Pacific/Ponape': 'Pacific/Pohnpei',
  'Pacific/Truk': 'Pacific/Chuuk',
}

export interface ZoneChoice {
  value: string
  /** The name, and how far it is from UTC at this moment. */
  label: string
  /** All it is found by. */
  words: string
}

const offsetOf = (zone: string, now: number): string =>
  new Intl.DateTimeFormat('en-GB', { timeZone: zone, timeZoneName: 'shortOffset' })
    .formatToParts(now)
    .find(p => p.type === 'timeZoneName')
    ?.value.replace('GMT', 'UTC') ?? 'UTC'

/** @param own the person's own, which is among them whatever it is called; '' for none */
export function zoneChoices(own: string, now: number): ZoneChoice[] {
  const old = new Map(Object.entries(TODAY).map(([before, today]) => [today, before]))
  const names = new Set(Intl.supportedValuesOf('timeZone').map(zone => TODAY[zone] ?? zone))
  names.add('UTC')
  if (own) names.add(own)
  return [...names].sort().map(value => {
    const label = `${value.replaceAll('_', ' ')} (${offsetOf(value, now)})`
    return { value, label, words: `${label} ${old.get(value) ?? ''}`.toLowerCase() }
  })
}
