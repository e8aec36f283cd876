import { expect } from 'chai'
import { Database } from '../src/data/database.ts'
import { freshDatabase } from './support/world.ts'

/** Statements that stand in each other's way: each is carried out once, and nobody hears of it. */
describe('statements that the database breaks off for others', function () {
  this.timeout(60_000)
  let db: Database
  let drop: () => Promise<void>
  const deadlocks = async (): Promise<number> =>
    Number((await db.one<{ Value: string }>(`SHOW GLOBAL STATUS LIKE 'Innodb_deadlocks'`))?.Value)

  before(async () => {
    const fresh = await freshDatabase()
    drop = fresh.drop
    db = new Database(fresh.url)
    await db.insert('CREATE TABLE tallies (id INT PRIMARY KEY, n INT NOT NULL)')
    await db.insert('INSERT INTO tallies SELECT seq, 0 FROM seq_1_to_20')
  })
  after(async () => {
    await db.close()
    await drop()
  })

  it('outside a transaction as within one', async () => {
    // Slowly, and from both ends.
    const count = (order: string) =>
      `UPDATE tallies SET n = n + 1 + SLEEP(0.001) ORDER BY id ${order} LIMIT 20`
    const before = await deadlocks()
    let rounds = 0
    while (rounds < 3 || (rounds < 50 && (await deadlocks()) < before + 5)) {
      rounds++
      await Promise.all(
        [1, 2].flatMap(() => [
          db.run(count('ASC')),
          db.run(count('DESC')),
          db.commit(sql => sql.run(count('DESC'))),
        ]),
      )
    }
    expect(await deadlocks(), 'they were in each other’s way').to.be.at.least(before + 5)
    const rows = await db.rows<{ n: number }>('SELECT DISTINCT n FROM tallies')
    expect(rows.map(r => r.n)).to.deep.equal([rounds * 6])
  })
})
