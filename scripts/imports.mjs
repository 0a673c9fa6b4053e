// Holds the import rules of .dependency-cruiser.cjs. Fails, too, when nothing was cruised: without its parser
// dependency-cruiser reads no module and finds no fault.
import { createRequire } from 'node:module'
import swc from '@swc/core'
import { cruise } from 'dependency-cruiser'

const require = createRequire(import.meta.url)
const config = require('../.dependency-cruiser.cjs')
// dependency-cruiser's swc parser does not know JSX: it is told for the files that have it.
const { parseFileSync } = swc
swc.parseFileSync = (file, options) => parseFileSync(file, { ...options, tsx: file.endsWith('.tsx') })

const folders = ['core', 'contract', 'server', 'web', 'standins', 'demo', 'e2e']
const LEAST_MODULES = 60
const LEAST_DEPENDENCIES = 200

const { output } = await cruise(folders, {
  ...config.options,
  ruleSet: { forbidden: config.forbidden },
  validate: true,
  outputType: 'json',
})
const { summary } = typeof output === 'string' ? JSON.parse(output) : output
for (const violation of summary.violations)
  console.error(`${violation.rule.name}: ${violation.from} → ${violation.to}`)
console.log(
  `imports: ${summary.totalCruised} modules, ${summary.totalDependenciesCruised} imports, ${summary.violations.length} against the rules`,
)
if (summary.totalCruised < LEAST_MODULES || summary.totalDependenciesCruised < LEAST_DEPENDENCIES) {
  console.error('Too few modules were read for this check to mean anything.')
  process.exit(1)
}
process.exit(summary.violations.length ? 1 : 0)
