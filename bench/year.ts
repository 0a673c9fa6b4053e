import { z } from 'zod'
import { ADDRESS, type Large } from './large.ts'
import { median, met, timed } from './measuring.ts'

const YEAR = '/api/entries?from=2026-10-25T00:00:00Z&to=2027-11-02T00:00:00Z'
const BUDGET = 2.5
const ROUNDS = 15

const sizeOf = async ({ pool }: Large): Promise<string> => {
  const sizes = await pool.query<{
    people: number
    resources: number
    entries: number
    own: number
    series: number
    dates: number
  }>(
    `select (select count(*) from person) as people, (select count(*) from resource) as resources,
            (select count(*) from entry) as entries,
            (select count(*) from entry e join person p on p.id = e.owner_id where p.address = $1) as own,
            (select count(*) from entry e join person p on p.id = e.owner_id where p.address = $1 and e.rule is not null) as series,
            (select count(*) from attendance a join person p on p.id = a.person_id
              where p.address = $1 and a.span && tstzrange('2026-10-25Z', '2027-11-02Z')) as dates`,
    [ADDRESS],
  )
  const [size] = sizes.rows
  return `${size?.dates} dates of ${size?.own} entries, ${size?.series} series, of a person among ${size?.people} people, ${size?.resources} places, ${size?.entries} entries`
}

/**
 * The year of an ordinary person in the large demo: the server's time for it beside the bare SQL of the same rows. Gives
 * whether its budget was met.
 */
export const measureYear = async (large: Large): Promise<boolean> => {
  // As long as the server takes, to the last byte; what a reader makes of the bytes is not its time.
  const read = async () => (await large.ask(YEAR)).arrayBuffer()
  z.object({ occurrences: z.array(z.unknown()).min(1000) }).parse(await (await large.ask(YEAR)).json())
  const bare = () =>
    large.pool.query(
      `select a.span, e.title from attendance a join occurrence o on o.id = a.occurrence_id join entry e on e.id = o.entry_id
         join person p on p.id = a.person_id
        where p.address = $1 and a.span && tstzrange('2026-10-25Z', '2027-11-02Z')`,
      [ADDRESS],
    )
  const first = await timed(read)
  const reads: number[] = []
  const bares: number[] = []
  for (let i = 0; i < ROUNDS; i++) {
    reads.push(await timed(read))
    bares.push(await timed(bare))
  }
  const ratio = median(reads) / median(bares)
  const fits = ratio <= BUDGET
  console.log(
    `a year, server time     median ${median(reads).toFixed(0)} ms, first ${first.toFixed(0)} ms, worst ${Math.max(...reads).toFixed(0)} ms; bare SQL ${median(bares).toFixed(0)} ms, ratio ${ratio.toFixed(1)} to 1, at most ${BUDGET}: ${met(fits)}   (${await sizeOf(large)})`,
  )
  return fits
}
