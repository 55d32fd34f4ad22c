import { createRequire } from 'node:module'
import { dirname, join } from 'node:path'
import type { Express } from 'express'

const FILES = ['swagger-ui.css', 'swagger-ui-bundle.js']
const PAGE = `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>API – Jury Box</title>
<link rel="icon" href="data:,">
<link rel="stylesheet" href="/api/docs/swagger-ui.css">
</head>
<body>
<main id="docs"></main>
<script src="/api/docs/swagger-ui-bundle.js"></script>
<script src="/api/docs/start.js"></script>
</body>
</html>`
const OPTIONS = {
  url: '/api/openapi.json',
  dom_id: '#docs',
  docExpansion: 'none',
  deepLinking: true,
  filter: true,
  supportedSubmitMethods: [],
  validatorUrl: null,
}

/** The description of the API for people, at `/api/docs`: to read, not to send requests from. */
export function serveApiDocs(app: Express): void {
  const folder = dirname(createRequire(import.meta.url).resolve('swagger-ui-dist/package.json'))
  app.get('/api/docs', (_, response) => {
    response.setHeader('Cache-Control', 'no-store')
    response.type('html').send(PAGE)
  })
  // The policy for content allows no script within a page.
  app.get('/api/docs/start.js', (_, response) => {
    response.type('js').send(`SwaggerUIBundle(${JSON.stringify(OPTIONS)})`)
  })
  for (const file of FILES) app.get(`/api/docs/${file}`, (_, response) => response.sendFile(join(folder, file)))
}
