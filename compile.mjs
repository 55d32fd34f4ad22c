// Compiles what runs on Node.js into packages/*/build, file by file, so that no loader is needed at run time.
// Node finds the compiled packages by the condition `compiled` (`node -C compiled`); without it the sources are used.
import { writeFileSync } from 'node:fs'
import { globSync } from 'tinyglobby'
import { fileURLToPath } from 'node:url'
import { build } from 'esbuild'

const root = fileURLToPath(new URL('.', import.meta.url))

/** Each file stays a file of its own, beside which its workers and data lie as they do in the sources. */
const eachByItself = {
  name: 'each-by-itself',
  setup({ onResolve }) {
    onResolve({ filter: /^\./ }, ({ path, kind }) =>
      kind === 'entry-point' ? null : { path: path.replace(/\.ts$/, '.js'), external: true },
    )
  },
}

await Promise.all(
  ['core', 'content', 'collector', 'simulator', 'cli', 'server'].map(async (name) => {
    const folder = `${root}packages/${name}`
    await build({
      entryPoints: globSync('src/**/*.ts', { cwd: folder }).map((file) => `${folder}/${file}`),
      outdir: `${folder}/build`,
      outbase: `${folder}/src`,
      bundle: true,
      packages: 'external',
      plugins: [eachByItself],
      platform: 'node',
      target: 'node20',
      format: 'esm',
      sourcemap: 'linked',
      sourcesContent: false,
      logLevel: 'warning',
    })
  }),
)
writeFileSync(`${root}packages/server/build/.compiled`, '')
