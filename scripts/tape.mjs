import { createWriteStream, existsSync } from 'node:fs'
import { once } from 'node:events'
import { buildServer } from './compile.mjs'
import { say } from './console.mjs'
import { inProject } from './project.mjs'

/**
 * `npm run tape -- csv|parquet FILE [people] [last day]`: the recorded opportunities for other tools; docs/formats.md
 * names the columns.
 */
const [kind, file, people, lastDay = '59'] = process.argv.slice(2)
if ((kind !== 'csv' && kind !== 'parquet') || !file || (people && !/^\d+$/.test(people)) || !/^\d+$/.test(lastDay)) {
  console.error('Say what to write and where: npm run tape -- csv|parquet FILE [people] [last day, counted from 2026-01-01 = 0]')
  process.exit(2)
}
if (existsSync(file)) {
  console.error(`${file} is there already; nothing was written.`)
  process.exit(1)
}
await buildServer()
const { FULL, TENTH, makeWorld } = await import(inProject('core/dist/market/index.js'))
const { EXPORT_COLUMNS, buildTape, exportValues, tapeCsv } = await import(inProject('core/dist/tape/index.js'))
const world = makeWorld(people ? { ...TENTH, people: Number(people) } : FULL)
const tape = buildTape(world, Number(lastDay))
say(`${tape.rowCount} rows of ${tape.peopleCount} people`)
if (kind === 'csv') {
  const stream = createWriteStream(file)
  for (const piece of tapeCsv(tape, world.inventory)) if (!stream.write(piece)) await once(stream, 'drain')
  stream.end()
  await once(stream, 'finish')
} else {
  const { parquetWriteFile } = await import('hyparquet-writer')
  const types = { text: 'STRING', 'whole number': 'INT32', flag: 'BOOLEAN' }
  await parquetWriteFile({
    filename: file,
    columnData: EXPORT_COLUMNS.map((/** @type {any} */ column) => ({
      name: column.name,
      type: types[/** @type {keyof typeof types} */ (column.type)],
      data: exportValues(column, tape, world.inventory)
    })),
    kvMetadata: [
      { key: 'tin-harbor', value: JSON.stringify({ seed: tape.seed, people: tape.people, sample: tape.sample, firstDay: tape.firstDay }) }
    ]
  })
}
say(`written to ${file}`)
