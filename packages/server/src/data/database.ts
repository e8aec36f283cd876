import { QueryTypes, Sequelize, Transaction } from 'sequelize'

/**
 * The one door to MariaDB. Statements are written out, because what they lock and which index they use
 * is part of what this product promises; Sequelize gives pool, transactions and escaping.
 */
export type Params = Record<string, unknown>

export interface Sql {
  rows<T>(sql: string, params?: Params): Promise<T[]>
  one<T>(sql: string, params?: Params): Promise<T | null>
  /** How many rows an UPDATE or DELETE changed. */
  run(sql: string, params?: Params): Promise<number>
  insert(sql: string, params?: Params): Promise<void>
}

export class Database implements Sql {
  readonly sequelize: Sequelize
  private readonly plain: Sql

  constructor(url: string) {
    this.sequelize = new Sequelize(url, {
      dialect: 'mariadb',
      logging: false,
      pool: { max: 12, acquire: 20_000 },
      isolationLevel: Transaction.ISOLATION_LEVELS.READ_COMMITTED,
      dialectOptions: { bigIntAsNumber: true, insertIdAsNumber: true, charset: 'utf8mb4' },
    })
    this.plain = this.over(null)
  }

  private over(transaction: Transaction | null): Sql {
    const { sequelize } = this
    const options = (params: Params | undefined) => ({ replacements: params ?? {}, transaction })
    const rows = <T>(sql: string, params?: Params): Promise<T[]> =>
      sequelize.query(sql, { ...options(params), type: QueryTypes.SELECT }) as unknown as Promise<T[]>
    return {
      rows,
      one: async <T>(sql: string, params?: Params) => (await rows<T>(sql, params))[0] ?? null,
      run: async (sql, params) => sequelize.query(sql, { ...options(params), type: QueryTypes.BULKUPDATE }),
      insert: async (sql, params) => {
        await sequelize.query(sql, { ...options(params), type: QueryTypes.INSERT })
      },
    }
  }

  rows = <T>(sql: string, params?: Params): Promise<T[]> => this.plain.rows<T>(sql, params)
  one = <T>(sql: string, params?: Params): Promise<T | null> => this.plain.one<T>(sql, params)
  run = (sql: string, params?: Params): Promise<number> => this.plain.run(sql, params)
  insert = (sql: string, params?: Params): Promise<void> => this.plain.insert(sql, params)

  /** One transaction. A deadlock is tried again, because nothing outside the database has happened in it. */
  async transaction<T>(work: (sql: Sql) => Promise<T>): Promise<T> {
    for (let attempt = 1; ; attempt++) {
      try {
        return await this.sequelize.transaction(t => work(this.over(t)))
      } catch (error) {
        if (attempt >= 5 || !isDeadlock(error)) throw error
        await new Promise(resolve => setTimeout(resolve, 10 * attempt + Math.random() * 20))
      }
    }
  }

  /** Reads that see one moment. */
  async snapshot<T>(work: (sql: Sql) => Promise<T>): Promise<T> {
    const isolationLevel = Transaction.ISOLATION_LEVELS.REPEATABLE_READ
    return this.sequelize.transaction({ isolationLevel, readOnly: true }, t => work(this.over(t)))
  }

  close(): Promise<void> {
    return this.sequelize.close()
  }
}

function isDeadlock(error: unknown): boolean {
  const text = error instanceof Error ? error.message : ''
  return /ER_LOCK_DEADLOCK|ER_LOCK_WAIT_TIMEOUT|Deadlock found|Record has changed/.test(text)
}
