// Mocha's own listing, and the totals and the slowest tests in a file for the run of all suites.
const { writeFileSync } = require('node:fs')
const { reporters, Runner } = require('mocha')

const SLOWEST = 12

module.exports = class extends reporters.Dot {
  constructor(runner, options) {
    super(runner, options)
    const leftOut = []
    runner.on(Runner.constants.EVENT_TEST_PENDING, (test) => leftOut.push(test.fullTitle()))
    const timed = []
    runner.on(Runner.constants.EVENT_TEST_END, (test) => timed.push([test.duration ?? 0, test.fullTitle()]))
    runner.on(Runner.constants.EVENT_HOOK_END, (hook) => timed.push([hook.duration ?? 0, hook.fullTitle()]))
    runner.once(Runner.constants.EVENT_RUN_END, () => {
      const slowest = timed.sort(([a], [b]) => b - a).slice(0, SLOWEST)
      writeFileSync(options.reporterOptions.out, JSON.stringify({ ...runner.stats, leftOut, slowest }))
    })
  }
}
