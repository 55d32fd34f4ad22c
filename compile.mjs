// Compiles what runs on Node.js into packages/*/build, so that no loader is needed at run time.
// Node finds the compiled packages by the condition `compiled` (`node -C compiled`); without it the sources are used.
import { execFileSync } from 'node:child_process'
import { renameSync, rmSync, writeFileSync } from 'node:fs'
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

const common = {
  bundle: true,
  packages: 'external',
  platform: 'node',
  target: 'node20',
  format: 'esm',
  sourcemap: 'linked',
  sourcesContent: false,
  logLevel: 'warning',
}
const PACKAGES = ['core', 'api', 'content', 'collector', 'simulator', 'cli', 'server']
const built = await Promise.all(
  PACKAGES.map((name) => {
    const folder = `${root}packages/${name}`
    const sources = (patterns) => globSync(patterns, { cwd: folder, absolute: true })
    const places = { outdir: `${folder}/build`, outbase: `${folder}/src`, absWorkingDir: root, metafile: true }
    return build(
      name === 'core'
        ? // No workers and no data lie beside the core: a few files load much faster than hundreds.
          {
            ...common,
            ...places,
            entryPoints: sources(['src/index.ts', 'src/*/index.ts']),
            splitting: true,
            chunkNames: 'chunks/[hash]',
          }
        : { ...common, ...places, entryPoints: sources('src/**/*.ts'), plugins: [eachByItself] },
    )
  }),
)
// The benchmarks that ship, as they are read: a start has nothing else to do that takes as long. Written to the side
// first, since a server that starts meanwhile looks for them.
const content = `${root}packages/content/build`
const keep = `import { benchmarksToKeep } from './index.js'; process.stdout.write(JSON.stringify(benchmarksToKeep()))`
const kept = execFileSync(process.execPath, ['-C', 'compiled', '--input-type=module', '-e', keep], {
  cwd: content,
  maxBuffer: 64 << 20,
})
writeFileSync(`${content}/benchmarks.json.new`, kept)
renameSync(`${content}/benchmarks.json.new`, `${content}/benchmarks.json`)
// What was compiled before and no longer is; only now, since what runs may still have been loading it.
const outputs = new Set(built.flatMap(({ metafile }) => Object.keys(metafile.outputs)))
for (const file of globSync(
  PACKAGES.map((name) => `packages/${name}/build/**/*.{js,js.map}`),
  { cwd: root },
))
  if (!outputs.has(file)) rmSync(`${root}${file}`)
writeFileSync(`${root}packages/server/build/.compiled`, '')
