/** What all HTML that leaves the product has in common: one file that needs nothing else. */
import type { Counts } from '../audit/index.ts'
import type { Say } from './messages/index.ts'

export function esc(text: string): string {
  return text
    .replaceAll('&', '&amp;')
    .replaceAll('<', '&lt;')
    .replaceAll('>', '&gt;')
    .replaceAll('"', '&quot;')
    .replaceAll("'", '&#39;')
}

export function code(text: string): string {
  return `<code>${esc(text)}</code>`
}

export function pre(text: string): string {
  return `<pre>${esc(text)}</pre>`
}

/** @param text RFC 3339, UTC */
export function time(text: string, say: Say): string {
  return `<time datetime="${esc(text)}">${esc(say('time.utc', { time: text.slice(0, 16).replace('T', ' ') }))}</time>`
}

/** The mark of an outcome, told apart by its form. */
export function mark(outcome: keyof Counts): string {
  return `<span class="mark ${outcome}" aria-hidden="true"></span>`
}

export function table(head: readonly string[], rows: readonly (readonly string[])[]): string {
  const heads = head.map((cell) => `<th scope="col">${esc(cell)}</th>`).join('')
  const body = rows.map((row) => `<tr>${row.map((cell) => `<td>${cell}</td>`).join('')}</tr>`).join('')
  return `<table><thead><tr>${heads}</tr></thead><tbody>${body}</tbody></table>`
}

export const STYLE = `
:root{color-scheme:light}
body{
  font:15px/1.5 "Source Sans 3","Segoe UI",system-ui,sans-serif;
  color:#20242c;
  background:#fffdf8;
  max-width:60rem;
  margin:2rem auto;
  padding:0 1.5rem;
}
h1,h2{font-family:"Source Serif 4",Georgia,serif;font-weight:600}
h1{font-size:2rem;margin:.2rem 0}
h2{border-top:1px solid #dad4c5;padding-top:1.2rem;margin-top:2.4rem}
h3{font-size:1.1rem;margin-top:1.6rem}
h4{margin:.8rem 0 .2rem}
.kicker,.meta,.quiet,figcaption{color:#646a73;font-size:.9rem}
table{border-collapse:collapse;width:100%;font-size:.9rem;font-variant-numeric:tabular-nums}
th,td{text-align:left;vertical-align:top;padding:.3rem .6rem .3rem 0;border-bottom:1px solid #dad4c5}
/* Joined letters would be another text than what a device says. */
code,pre{
  font-family:"JetBrains Mono",ui-monospace,monospace;
  font-size:.85em;
  font-variant-ligatures:none;
}
.logo{max-height:4rem;max-width:16rem;float:right}
.hash{font-size:.7em;word-break:break-all}
pre{
  background:#f5f2ea;
  border:1px solid #dad4c5;
  border-radius:3px;
  padding:.5rem .7rem;
  overflow-x:auto;
  white-space:pre-wrap;
  margin:.3rem 0;
}
.n{display:inline-block;width:3.2em;color:#646a73;user-select:none}
figure{margin:.6rem 0}
.device{font-weight:400;color:#5a2f52}
article{border-top:1px solid #dad4c5}
.confidential{color:#b93a22}
.cover{margin:.6rem 0}
.cover div{display:flex;gap:.6rem}
.cover dt{color:#646a73;min-width:5rem}
.cover dd{margin:0}
.qr svg{width:120px;height:120px}
figure svg{max-width:100%;height:auto}
.counts>span{margin-right:.9rem;white-space:nowrap}
a{color:#5a2f52}
.mark{display:inline-block;width:.7em;height:.7em;margin-right:.4em;box-sizing:border-box;vertical-align:-.05em}
.mark.pass{border:2px solid #1f7a6d;border-radius:50%}
.mark.fail{background:#b93a22}
.mark.unknown{
  transform:rotate(45deg) scale(.8);
  border:2px solid #7e5800;
  background:linear-gradient(135deg,#7e5800 50%,transparent 50%);
}
.mark.error{
  border:2px solid #20242c;
  background:linear-gradient(45deg,transparent 44%,#20242c 44% 56%,transparent 56%),
    linear-gradient(-45deg,transparent 44%,#20242c 44% 56%,transparent 56%);
}
.mark.notapplicable,.mark.notchecked{height:2px;background:#646a73;vertical-align:.25em}
@media print{
  body{margin:0;max-width:none}
  article,figure{break-inside:avoid}
  a{color:inherit;text-decoration:none}
}
`

/** What a document may load: its own style, and the fonts and pictures that it holds. */
export const POLICY = "default-src 'none'; style-src 'unsafe-inline'; font-src data:; img-src data:"

/** A whole document without scripts. @param body sections that are HTML already */
export function htmlDocument(title: string, body: readonly string[]): string {
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<meta http-equiv="Content-Security-Policy" content="${POLICY}">
<title>${esc(title)}</title>
<style>${STYLE}</style>
</head>
<body>
${body.join('\n')}
</body>
</html>
`
}
