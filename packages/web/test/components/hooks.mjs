/** Lets Node.js load components: a `.vue` file as the module that it compiles to, a style sheet as nothing. */
import { existsSync, readFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { transform } from 'esbuild'
import ts from 'typescript'
import { compileScript, parse, registerTS } from 'vue/compiler-sfc'

registerTS(() => ts)
const fs = { fileExists: existsSync, readFile: (file) => (existsSync(file) ? readFileSync(file, 'utf8') : undefined) }

export async function load(url, context, next) {
  const { pathname } = new URL(url, 'file:')
  if (pathname.endsWith('.css')) return { format: 'module', source: '', shortCircuit: true }
  if (!pathname.endsWith('.vue')) return next(url, context)
  const filename = fileURLToPath(new URL(url))
  const { descriptor } = parse(readFileSync(filename, 'utf8'), { filename })
  const { content } = compileScript(descriptor, { id: filename, inlineTemplate: true, fs })
  const { code } = await transform(content, { loader: 'ts', format: 'esm', target: 'es2023' })
  return { format: 'module', source: code, shortCircuit: true }
}
