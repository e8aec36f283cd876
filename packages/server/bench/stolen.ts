import { readFileSync } from 'node:fs'

/**
 * How much of its processors a virtual machine did not get, because other machines had them: figures from such minutes
 * say little. From the first line of Linux’s /proc/stat (proc(5)), which counts since the machine was started.
 */

function counted(): { stolen: number; all: number } {
  const [line = ''] = readFileSync('/proc/stat', 'utf8').split('\n')
  // user, nice, system, idle, iowait, irq, softirq, steal; what guests used is counted in the first two.
  const times = line.trim().split(/\s+/).slice(1, 9).map(Number)
  return { stolen: times[7] ?? 0, all: times.reduce((a, b) => a + b, 0) }
}

/** Call it when the work begins; the result says in a sentence what was taken until then. */
export function watchStolen(): () => string {
  const before = counted()
  return () => {
    const now = counted()
    const share = (now.stolen - before.stolen) / Math.max(1, now.all - before.all)
    return `Meanwhile ${(100 * share).toFixed(0)} % of the processors went to other machines.`
  }
}
