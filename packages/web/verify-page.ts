import { createHash } from 'node:crypto'
import { readFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { build } from 'esbuild'
import type { Plugin } from 'vite'

const folder = fileURLToPath(new URL('./src/verify/', import.meta.url))

/** A script with all that it imports, as text that can stand within a page. */
async function bundled(file: string): Promise<string> {
  const { outputFiles } = await build({
    entryPoints: [`${folder}${file}`],
    bundle: true,
    write: false,
    minify: true,
    format: 'iife',
    platform: 'browser',
    target: 'es2022',
    legalComments: 'none',
  })
  // What would end the element that holds it is written in another way.
  return (outputFiles[0]?.text ?? '').replaceAll('</script', '<\\/script').replaceAll('<!--', '<\\!--')
}

/** The page that verifies evidence by itself: one file, which asks nobody for anything. */
export async function verifyPage(): Promise<string> {
  const [page, worker] = await Promise.all([bundled('page.ts'), bundled('worker.ts')])
  const style = readFileSync(`${folder}page.css`, 'utf8')
  const hash = (text: string): string => `'sha256-${createHash('sha256').update(text).digest('base64')}'`
  const policy = `default-src 'none'; script-src ${hash(page)} blob:; worker-src blob:; style-src ${hash(style)}`
  return [
    '<!doctype html>',
    '<html lang="en">',
    '<head>',
    '<meta charset="utf-8" />',
    `<meta http-equiv="Content-Security-Policy" content="${policy}" />`,
    '<meta name="viewport" content="width=device-width, initial-scale=1" />',
    `<style>${style}</style>`,
    '</head>',
    '<body>',
    `<script type="text/plain" id="worker">${worker}</script>`,
    `<script>${page}</script>`,
    '</body>',
    '</html>',
    '',
  ].join('\n')
}

export function verifyPagePlugin(): Plugin {
  return {
    name: 'verify-page',
    apply: 'build',
    async generateBundle() {
      this.emitFile({ type: 'asset', fileName: 'verify.html', source: await verifyPage() })
    },
  }
}
