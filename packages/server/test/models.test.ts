import { expect } from 'chai'
import type { Model, ModelStatic } from 'sequelize'
import { modelsOf } from '../src/data/models/index.ts'
import { startWorld, type World } from './support/world.ts'

describe('the models', function () {
  this.timeout(30_000)
  let w: World
  before(async () => {
    w = await startWorld()
  })
  after(() => w.close())

  it('know exactly the columns that the migrations made, and which of them may be empty', async () => {
    const { db } = w.app.ctx
    for (const model of Object.values(modelsOf(db.sequelize)) as ModelStatic<Model>[]) {
      const columns = await db.rows<{ name: string; empty: string }>(
        `SELECT column_name AS name, is_nullable AS empty FROM information_schema.columns
         WHERE table_schema = DATABASE() AND table_name = :table`,
        { table: model.tableName },
      )
      const made = Object.fromEntries(columns.map(c => [c.name, c.empty === 'YES']))
      const known = Object.fromEntries(
        Object.entries(model.getAttributes()).map(([name, a]) => [name, a.allowNull === true]),
      )
      expect(known, model.tableName).to.deep.equal(made)
    }
  })

  it('let nothing in that their columns have no room for, and roll back with the commit they belong to', async () => {
    const { db } = w.app.ctx
    const [workspace] = await db.rows<{ id: string }>('SELECT id FROM workspaces')
    const [user] = await db.rows<{ id: string }>('SELECT id FROM users')
    const member = (name: string, email: string) => ({
      id: name.slice(0, 36),
      workspace_id: workspace?.id ?? '',
      name,
      user_id: user?.id ?? '',
      role: 'member' as const,
      joined_at: 0,
      email,
      zone: 'UTC',
    })
    const refused = async (name: string, email: string): Promise<string> =>
      db.models.members.create(member(name, email), db.within).then(
        () => 'taken',
        (error: Error) => error.name,
      )
    expect(await refused('n'.repeat(201), 'n@quillmere.example')).to.equal('SequelizeValidationError')
    expect(await refused('Nobody', 'no address')).to.equal('SequelizeValidationError')
    await db
      .commit(async sql => {
        await sql.models.members.create(member('Undone', 'undone@quillmere.example'), sql.within)
        throw new Error('undone')
      })
      .catch(() => undefined)
    expect(await db.models.members.count({ where: { name: 'Undone' } })).to.equal(0)
  })
})
