import pino, { type Logger, stdSerializers } from 'pino'

/**
 * The log: what happened, and to which id; no titles and no secrets. A database error carries its statement with
 * all values, and an address may be a key. Both are removed here, in one place.
 */
const MOST_MESSAGE = 1_000

/** Addresses in which a token stands. */
const withoutTokens = (text: string): string =>
  text
    .replace(/\/(capture|hooks|consent)\/[^\s/?#"']+/g, '/$1/…')
    .replace(/([?&](?:code|state|token|access_token|key)=)[^&\s"']+/gi, '$1…')
    .replace(/\b(Bearer|Basic)\s+[A-Za-z0-9+/=._~-]+/gi, '$1 …')
    .replace(/\/\/[^/\s:@]+:[^/\s@]+@/g, '//…@')

/** As much of a message as is looked at: a value in it may be millions of characters long, and have no end. */
const LOOKED_AT = 4_000
/** Values stand in quotes in what a database says. */
const withoutValues = (message: string): string =>
  message.slice(0, LOOKED_AT).replace(/'(?:[^'\\]|\\.|'')*(?:'|$)/g, "'…'")

function errorOf(error: unknown): object {
  if (!(error instanceof Error)) return { message: withoutTokens(String(error)).slice(0, MOST_MESSAGE) }
  const { type, message, stack } = stdSerializers.err(error)
  const { sqlState, errno, code } = ((error as { parent?: unknown }).parent ?? error) as Record<
    string,
    unknown
  >
  const isOfDatabase = sqlState !== undefined || type.startsWith('Sequelize') || 'sql' in error
  // The driver appends the statement and its parameters to its message, in lines of their own.
  const [first = ''] = message.split('\n')
  return {
    type,
    message: withoutTokens(isOfDatabase ? withoutValues(first.split(/ - sql: /)[0] ?? '') : message).slice(
      0,
      MOST_MESSAGE,
    ),
    ...(sqlState !== undefined && { sqlState, errno }),
    ...(code !== undefined && { code }),
    at: (stack ?? '')
      .split('\n')
      .filter(line => /^\s+at /.test(line))
      .slice(0, 12)
      .map(line => line.trim()),
  }
}

export const makeLog = (level: string, to?: pino.DestinationStream): Logger =>
  pino(
    {
      level,
      serializers: { err: errorOf, path: (path: unknown) => withoutTokens(String(path)) },
    },
    to ?? pino.destination({ dest: 2, sync: true }),
  )
