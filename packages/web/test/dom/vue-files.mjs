// Module hooks: a .vue file is its script with its template compiled into it; its styles are left out.
import { readFile } from 'node:fs/promises'
import { fileURLToPath } from 'node:url'
import { compileScript, parse } from '@vue/compiler-sfc'
import { transform } from 'esbuild'

export async function load(url, context, next) {
  const { pathname } = new URL(url)
  if (pathname.endsWith('.css')) return { format: 'module', source: '', shortCircuit: true }
  if (!pathname.endsWith('.vue')) return next(url, context)
  const filename = fileURLToPath(url)
  const { descriptor, errors } = parse(await readFile(filename, 'utf8'), { filename })
  if (errors.length > 0) throw errors[0]
  const script = compileScript(descriptor, { id: filename, inlineTemplate: true })
  const { code } = await transform(script.content, {
    loader: 'ts',
    sourcefile: filename,
    sourcemap: 'inline',
  })
  return { format: 'module', source: code, shortCircuit: true }
}
