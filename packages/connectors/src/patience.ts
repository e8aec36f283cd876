import { ServiceError } from './connector.ts'
import type { Outbound } from './outbound.ts'

/**
 * How long one service is waited for. It begins with the usual limit, and doubles whenever that runs out: a slow server
 * is read in the end, and one that hangs costs little. Writes end before a lease does.
 */
export class Patience {
  constructor(
    private ms: number,
    private readonly most = { read: 20_000, write: 8_000 },
  ) {}

  through(http: Outbound): Outbound {
    return async request => {
      const most = READS.has(request.method) ? this.most.read : this.most.write
      try {
        return await http({ ...request, timeoutMs: Math.min(most, this.ms) })
      } catch (error) {
        const isOurs = !request.signal?.aborted
        if (isOurs && error instanceof ServiceError && error.trouble === 'timeout')
          this.ms = Math.min(this.most.read, this.ms * 2)
        throw error
      }
    }
  }
}

const READS = new Set(['GET', 'HEAD', 'OPTIONS', 'PROPFIND', 'REPORT'])
