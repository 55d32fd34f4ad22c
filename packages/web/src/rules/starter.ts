/** What the rule bench begins with: one rule that works, to be changed. */
export const STARTER = `id: own-rules
title: Rules of our own
version: 1.0.0
statement: What this network asks of its devices beyond the published benchmarks.

profiles:
  - { id: base, title: All }

rules:
  - id: domain-named
    title: Devices name their domain
    statement: Names in logs and certificates are complete only with a domain.
    topic: Names
    severity: low
    profile: base
    references: []
    dialects: [indented]
    decide:
      # A line with a part that may be anything; what stands there is known as "name" from here on.
      - { id: named, when: 'ip domain name <name>', outcome: pass, note: 'The domain is \${name}.' }
      - { id: silent, outcome: fail, note: No domain is named. }
    remedy: { edits: [{ add: ['ip domain name example.net'] }] }
    examples:
      - { name: named, config: "hostname a\\nip domain name example.net\\n", is: pass }
      - { name: silent, config: "hostname a\\n", is: fail, branch: silent }
`
