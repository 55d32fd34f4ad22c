// Mocha's own listing, and the totals in a file for the run of all suites.
const { writeFileSync } = require('node:fs')
const { reporters, Runner } = require('mocha')

module.exports = class extends reporters.Dot {
  constructor(runner, options) {
    super(runner, options)
    const leftOut = []
    runner.on(Runner.constants.EVENT_TEST_PENDING, (test) => leftOut.push(test.fullTitle()))
    runner.once(Runner.constants.EVENT_RUN_END, () =>
      writeFileSync(options.reporterOptions.out, JSON.stringify({ ...runner.stats, leftOut })),
    )
  }
}
