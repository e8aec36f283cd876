import { writeFileSync } from 'node:fs'
import { COST_VERSION } from '../../src/planning/cost.ts'
import { type Certificate, certificatesFile, hashOf, smallInstance } from './certificates.ts'
import { optimumOf } from './exact.ts'

/** Proves the optimum of 200 small instances and stores them; to be run again by hand when what a draft costs changes. */
const of: Certificate[] = []
for (let seed = 1; of.length < 200; seed++) {
  const instance = smallInstance(seed)
  const best = await optimumOf(instance, 10)
  if (best) of.push({ seed, hash: hashOf(instance), price: best.price })
}
writeFileSync(certificatesFile, `${JSON.stringify({ costVersion: COST_VERSION, of })}\n`)
console.log(`${of.length} certificates, the last for seed ${of.at(-1)?.seed}.`)
