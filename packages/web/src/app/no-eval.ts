import { config } from 'zod'

// The page's content policy allows no code made from text, so schemas are not to try that first.
config({ jitless: true })
