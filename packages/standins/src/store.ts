import { mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs'
import { dirname } from 'node:path'

/** A value kept in one JSON file: whole after a crash, because the file is replaced, never rewritten. */
export class Store<T> {
  value: T

  constructor(
    private readonly file: string,
    private readonly fresh: () => T,
  ) {
    mkdirSync(dirname(file), { recursive: true })
    this.value = this.read() ?? fresh()
    this.save()
  }

  private read(): T | null {
    try {
      return JSON.parse(readFileSync(this.file, 'utf8')) as T
    } catch (error) {
      if (error instanceof Error && 'code' in error && error.code === 'ENOENT') return null
      throw error
    }
  }

  save(): void {
    writeFileSync(`${this.file}.new`, JSON.stringify(this.value))
    renameSync(`${this.file}.new`, this.file)
  }

  reset(): void {
    this.value = this.fresh()
    this.save()
  }
}
