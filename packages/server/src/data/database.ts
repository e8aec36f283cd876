import { AsyncLocalStorage } from 'node:async_hooks'
import type { Change, ChangeToTell } from './change.ts'
import { isConflictOfTransactions } from './database-errors.ts'
import { numberChanges, takeNumber } from './number-changes.ts'
import { type Models, modelsOf } from './models/index.ts'
import { type OnceOnly, writeOnce } from './once-only.ts'
import type { Connection } from 'mariadb'
import { QueryTypes, Sequelize, type Transaction } from 'sequelize'

/**
 * All access to MariaDB, through Sequelize: models for rows that are simply read and written, written SQL where
 * its locks and indexes matter.
 */
export type Params = Record<string, unknown>

export interface Sql {
  rows<T>(sql: string, params?: Params): Promise<T[]>
  one<T>(sql: string, params?: Params): Promise<T | null>
  /** How many rows an UPDATE or DELETE changed. */
  run(sql: string, params?: Params): Promise<number>
  insert(sql: string, params?: Params): Promise<void>
  /** Many rows through one prepared statement, `?` for each value: for those that are long, and come by the thousand. */
  insertMany(sql: string, rows: readonly (readonly unknown[])[]): Promise<void>
  models: Models
  /** For a call of a model: the transaction it belongs to, and plain rows. */
  within: { transaction: Transaction | null; raw: true; retry?: typeof SAID_AGAIN }
}

/** Inside a transaction: also what it changes, for those who look on. */
export interface Tx extends Sql {
  tell(workspaceId: string, change: Change, mirrorIds?: readonly string[]): void
  /**
   * The number of the first change told of, for rows that are written with it instead of being numbered
   * afterwards. From here on others wait for their numbers, so little should happen before the commit.
   */
  numberAhead(workspaceId: string): Promise<number>
}

/** The driver's own connection: Sequelize writes all values into the text of a statement, which both sides then read. */
const connectionOf = (transaction: Transaction): Pick<Connection, 'batch'> =>
  (transaction as unknown as { connection: Connection }).connection

/** Among very many who write at once, some have to begin again several times. */
const ATTEMPTS = 20

/**
 * A statement that is no part of a transaction is one of its own: what another one undid is said again. Within a
 * transaction it must not be, as all before it is undone as well.
 */
const SAID_AGAIN = {
  max: ATTEMPTS,
  match: (error: unknown): boolean => isConflictOfTransactions(error),
  backoffBase: 50,
  backoffExponent: 1.1,
  backoffJitter: 50,
}

/** A trial run is over. */
class Undone extends Error {}

const inTransaction = new AsyncLocalStorage<true>()

/** What its transactions are is said once for each connection: saying it for each transaction is a way there and back. */
const connect = (url: string, transactions: string, max: number): Sequelize =>
  new Sequelize(url, {
    dialect: 'mariadb',
    logging: false,
    pool: { max, acquire: 20_000 },
    dialectOptions: {
      initSql: `SET SESSION TRANSACTION ${transactions}`,
      bigIntAsNumber: true,
      insertIdAsNumber: true,
      charset: 'utf8mb4',
      // The driver's own is one second, which a busy machine exceeds.
      connectTimeout: 10_000,
      // Values as the driver reads them: Sequelize would be asked for each of tens of thousands, and changes none.
      typeCast: undefined,
    },
  })

export class Database implements Sql {
  readonly sequelize: Sequelize
  private readonly snapshots: Sequelize
  private readonly plain: Sql

  private readonly listeners: (() => void)[] = []

  /** @param twice each `work` of a commit runs twice, for trials */
  constructor(
    url: string,
    private readonly twice = false,
  ) {
    this.sequelize = connect(url, 'ISOLATION LEVEL READ COMMITTED', 12)
    this.snapshots = connect(url, 'ISOLATION LEVEL REPEATABLE READ, READ ONLY', 8)
    this.plain = this.over(this.sequelize, null)
  }

  private over(sequelize: Sequelize, transaction: Transaction | null): Sql {
    const part = { transaction, ...(transaction ? {} : { retry: SAID_AGAIN }) }
    const options = (params: Params | undefined) => ({ replacements: params ?? {}, ...part })
    const models = modelsOf(sequelize)
    const within = { ...part, raw: true as const }
    const rows = <T>(sql: string, params?: Params): Promise<T[]> =>
      sequelize.query(sql, { ...options(params), type: QueryTypes.SELECT }) as unknown as Promise<T[]>
    return {
      models,
      within,
      rows,
      one: async <T>(sql: string, params?: Params) => (await rows<T>(sql, params))[0] ?? null,
      run: async (sql, params) => sequelize.query(sql, { ...options(params), type: QueryTypes.BULKUPDATE }),
      insert: async (sql, params) => {
        await sequelize.query(sql, { ...options(params), type: QueryTypes.INSERT })
      },
      insertMany: async (sql, rows) => {
        if (!transaction) throw new Error('Many rows are written in a commit.')
        if (rows.length > 0) await connectionOf(transaction).batch(sql, rows)
      },
    }
  }

  rows = <T>(sql: string, params?: Params): Promise<T[]> => this.alone().rows<T>(sql, params)
  one = <T>(sql: string, params?: Params): Promise<T | null> => this.alone().one<T>(sql, params)
  run = (sql: string, params?: Params): Promise<number> => this.alone().run(sql, params)
  insert = (sql: string, params?: Params): Promise<void> => this.alone().insert(sql, params)
  insertMany = (sql: string, rows: readonly (readonly unknown[])[]): Promise<void> =>
    this.alone().insertMany(sql, rows)
  get models(): Models {
    return this.alone().models
  }
  get within(): Sql['within'] {
    return this.alone().within
  }

  /**
   * A caller that holds a connection and waits for a second one can wait for ever once others do the same. So
   * inside a transaction its own `sql` is used.
   */
  private alone(): Sql {
    if (inTransaction.getStore()) throw new Error('A transaction asked for a second connection.')
    return this.plain
  }
  /**
   * One transaction: all of `work`, then the numbers of the changes it told of, then the notification of
   * listeners. If another transaction stood in its way, the whole is tried again, so `work` must do nothing
   * outside the database. In tests each `work` runs twice, the first time rolled back, which reveals work that
   * cannot be repeated.
   */
  async commit<T>(work: (tx: Tx) => Promise<T>): Promise<T> {
    this.alone()
    if (this.twice) await this.attempt(work, true)
    const done = await this.attempt(work, false)
    return done.result
  }

  private async attempt<T>(work: (tx: Tx) => Promise<T>, isTrial: boolean): Promise<{ result: T }> {
    for (let attempt = 1; ; attempt++) {
      const changes: ChangeToTell[] = []
      const taken = new Map<string, number>()
      let once: OnceOnly | null = null
      let trial: { result: T } | null = null
      try {
        const result = await this.sequelize.transaction(t =>
          inTransaction.run(true, async () => {
            const sql = this.over(this.sequelize, t)
            const tx: Tx = {
              ...sql,
              tell: (workspaceId, change, mirrorIds = []) =>
                void changes.push({ workspaceId, change, mirrorIds }),
              numberAhead: async workspaceId => {
                const seq = taken.get(workspaceId) ?? (await takeNumber(sql, workspaceId))
                taken.set(workspaceId, seq)
                return seq
              },
            }
            const given = await work(tx)
            once = await writeOnce(sql)
            await numberChanges(sql, changes, taken)
            if (isTrial) {
              trial = { result: given }
              throw new Undone()
            }
            return given
          }),
        )
        if (once) (once as OnceOnly).written = true
        if (changes.length > 0) for (const hear of this.listeners) hear()
        return { result }
      } catch (error) {
        if (error instanceof Undone && trial) return trial
        if (attempt >= ATTEMPTS || !isConflictOfTransactions(error)) throw error
        await new Promise(resolve => setTimeout(resolve, Math.random() * Math.min(200, 10 * 2 ** attempt)))
      }
    }
  }

  /** `hear` is called after each transaction that told of a change. */
  afterCommit(hear: () => void): void {
    this.listeners.push(hear)
  }

  /** Reads that see one moment. */
  async snapshot<T>(work: (sql: Sql) => Promise<T>): Promise<T> {
    this.alone()
    const moment = await this.snapshots.transaction()
    try {
      return await inTransaction.run(true, () => work(this.over(this.snapshots, moment)))
    } finally {
      // Nobody waits for the end of what has written nothing; a connection that cannot end it is given up.
      moment.rollback().catch(() => undefined)
    }
  }

  async close(): Promise<void> {
    await Promise.all([this.sequelize.close(), this.snapshots.close()])
  }
}
