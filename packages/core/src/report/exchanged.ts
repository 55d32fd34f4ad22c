/** Reports for other tools: OSCAL, XCCDF, and findings for registers. */
import {
  assessmentPlan,
  assessmentResults,
  planOfAction,
  writeGrc,
  writeOscal,
  writeXccdf,
  type Told,
} from '../exchange/index.ts'
import type { ReportFormat, ReportParts } from './format.ts'

function toldOf({ document, benchmarks, report, marks = new Map() }: ReportParts): Told {
  const { title, madeAt } = report()
  return { document, benchmarks, title, madeAt, marks }
}

const JSON_TYPE = 'application/json; charset=utf-8'

export const EXCHANGE_FORMATS: readonly ReportFormat[] = [
  {
    form: 'oscal-results.json',
    title: 'OSCAL results',
    what: 'assessment results of OSCAL 1.1',
    type: JSON_TYPE,
    write: (parts) => writeOscal('assessment-results', assessmentResults(toldOf(parts))),
  },
  {
    form: 'oscal-plan.json',
    title: 'OSCAL plan',
    what: 'the assessment plan that they belong to',
    type: JSON_TYPE,
    write: (parts) => writeOscal('assessment-plan', assessmentPlan(toldOf(parts))),
  },
  {
    form: 'oscal-poam.json',
    title: 'OSCAL POA&M',
    what: 'plan of action and milestones',
    type: JSON_TYPE,
    write: (parts) => {
      const plan = planOfAction(toldOf(parts))
      // A plan of action has at least one item.
      return plan === null ? '{}\n' : writeOscal('plan-of-action-and-milestones', plan)
    },
  },
  {
    form: 'xccdf.xml',
    title: 'XCCDF',
    what: 'benchmark and results of XCCDF 1.2',
    type: 'application/xml; charset=utf-8',
    write: (parts) => writeXccdf(toldOf(parts)),
  },
  {
    form: 'grc.csv',
    title: 'GRC CSV',
    what: 'one row per finding, for registers of risks',
    type: 'text/csv; charset=utf-8',
    write: (parts) => writeGrc(toldOf(parts)),
  },
]
