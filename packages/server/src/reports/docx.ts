import { xmlCharacters } from '@jurybox/core/syntax'
import { pageWords, reportBlocks, textsOf, type Block, type Report } from '@jurybox/core/report'
import {
  Document,
  Footer,
  Header,
  HeadingLevel,
  PageNumber,
  Packer,
  Paragraph,
  Table,
  TableCell,
  TableRow,
  TextRun,
  WidthType,
} from 'docx'

const LEVELS = { 1: HeadingLevel.TITLE, 2: HeadingLevel.HEADING_1, 3: HeadingLevel.HEADING_2 } as const
const QUIET = '5F656E'
const MONO = 'JetBrains Mono'

/** The report as Office Open XML (ECMA-376), for editing: headings are headings, tables repeat their first row. */
export async function writeDocx(report: Report): Promise<Buffer> {
  const [before, between, after] = pageWords(textsOf(report.language))
  const document = new Document({
    title: report.title,
    creator: 'Jury Box',
    styles: { default: { document: { run: { font: 'Source Sans 3', size: 20 } } } },
    sections: [
      {
        properties: { titlePage: true },
        headers: { default: new Header({ children: [quiet([`${report.title} · ${report.madeAt.slice(0, 10)}`])] }) },
        footers: {
          default: new Footer({
            children: [
              quiet([
                report.cover.confidentiality === '' ? '' : `${report.cover.confidentiality} · `,
                before,
                PageNumber.CURRENT,
                between,
                PageNumber.TOTAL_PAGES,
                after,
              ]),
            ],
          }),
        },
        children: reportBlocks(report).flatMap(paragraphsOf),
      },
    ],
  })
  return Packer.toBuffer(document)
}

function quiet(children: readonly (string | (typeof PageNumber)[keyof typeof PageNumber])[]): Paragraph {
  return new Paragraph({ children: [new TextRun({ children: [...children], color: QUIET, size: 16 })] })
}

function paragraphsOf(block: Block): (Paragraph | Table)[] {
  switch (block.kind) {
    case 'heading':
      return [new Paragraph({ text: xmlCharacters(block.text), heading: LEVELS[block.level], keepNext: true })]
    case 'text':
      return [
        new Paragraph({
          spacing: { after: 80 },
          children: [
            new TextRun({
              text: xmlCharacters(block.text),
              bold: block.tone === 'strong',
              ...(block.tone === 'quiet' ? { color: QUIET, size: 18 } : {}),
            }),
          ],
        }),
      ]
    case 'list':
      return block.items.map((item) => new Paragraph({ text: xmlCharacters(item), bullet: { level: 0 } }))
    case 'table':
      return [tableOf(block.head, block.rows), new Paragraph({})]
    case 'lines':
      return [
        new Paragraph({
          spacing: { after: 80 },
          shading: { fill: 'F5F2EA' },
          children: block.text
            .split('\n')
            .map(
              (line, i) =>
                new TextRun({ text: xmlCharacters(line), font: MONO, size: 15, ...(i > 0 ? { break: 1 } : {}) }),
            ),
        }),
      ]
  }
}

function tableOf(head: readonly string[], rows: readonly (readonly string[])[]): Table {
  const row = (cells: readonly string[], isHead: boolean): TableRow =>
    new TableRow({
      tableHeader: isHead,
      cantSplit: true,
      children: cells.map(
        (text) =>
          new TableCell({
            children: [
              new Paragraph({ children: [new TextRun({ text: xmlCharacters(text), bold: isHead, size: 17 })] }),
            ],
          }),
      ),
    })
  return new Table({
    width: { size: 100, type: WidthType.PERCENTAGE },
    rows: [row(head, true), ...rows.map((cells) => row(cells, false))],
  })
}
