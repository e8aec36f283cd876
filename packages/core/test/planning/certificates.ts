import { createHash } from 'node:crypto'
import { readFileSync } from 'node:fs'
import type { Instance } from '../../src/planning/instance.ts'
import { seeded } from '../../src/planning/search.ts'
import { randomInstance } from './random-instance.ts'

/** Small instances whose optimum was proved once, by `certify.ts`: the instance is told by its seed and a hash of it. */

export interface Certificate {
  seed: number
  hash: string
  price: number
}
export interface Certificates {
  costVersion: number
  of: Certificate[]
}

const FILE = new URL('./certificates.json', import.meta.url)
export const certificates = (): Certificates => JSON.parse(readFileSync(FILE, 'utf8')) as Certificates
export const certificatesFile = FILE

/** @param most how many demands; more than 11 take long to prove */
export const smallInstance = (seed: number, most = 11): Instance =>
  randomInstance(seeded(seed), { days: 2 + (seed % 2), demands: 4 + (seed % (most - 3)), day: 96 })

export const hashOf = (instance: Instance): string =>
  createHash('sha256').update(JSON.stringify(instance)).digest('base64url').slice(0, 16)
