// npm run faults: puts one fault after another into a copy of the code and runs the tests that should notice. Prints which
// were noticed, and how many of how many. `npm run faults -- core` tries those of core alone; a word of a file's name, those.
import { spawnSync } from 'node:child_process'
import { cpSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { root } from './lib/install.mjs'

/** A fault: a file, what stands there once, what stands there instead, and the tests that are asked. */
const FAULTS = [
  // core
  [
    'core/time/zones.ts',
    'if (earlyHolds) return { instant: early',
    'if (lateHolds) return { instant: late',
    'core/time',
  ],
  [
    'core/recurrence/index.ts',
    'if (override?.cancelled) continue',
    'if (override === null) continue',
    'core/recurrence',
  ],
  [
    'core/recurrence/dates.ts',
    'if (++given === rule.count) return',
    'if (++given > (rule.count ?? given)) return',
    'core/recurrence',
  ],
  [
    'core/availability/index.ts',
    "if (!time.known) return { state: 'unknown'",
    "if (!time.known) return { state: 'free'",
    'core/availability',
  ],
  [
    'core/reservations/place.ts',
    'end: reserved.end + turnaround * MINUTE',
    'end: reserved.end',
    'core/reservations',
  ],
  ['core/reservations/place.ts', 'place.mayTake &&\n', '', 'core/reservations'],
  [
    'core/sharing/index.ts',
    "return entry.private && !seesPrivate && sees !== 'nothing' ? 'busy' : sees",
    'return sees',
    'core/sharing',
  ],
  [
    'core/sharing/index.ts',
    'grant.until === null || grant.until > now',
    'grant.until === null || grant.until > 0',
    'core/sharing',
  ],
  [
    'core/openings/bits.ts',
    'else {\n        more |= same & plane',
    'else {\n        more |= plane',
    'core/openings',
  ],
  [
    'core/openings/places.ts',
    'keepBits(possible, atLeast(free, many, possible.length))',
    'keepBits(possible, atLeast(free, 1, possible.length))',
    'core/openings',
  ],
  [
    'core/openings/places.ts',
    'const named = new Set(all.filter((place) => ids.includes(place.id)).map(like))',
    'const named = new Set<string>()',
    'core/openings',
  ],
  [
    'core/reservations/place.ts',
    'return first && first.start < blocked.end ? first : null',
    'return first && first.start <= blocked.end ? first : null',
    'core/reservations',
  ],
  ['core/openings/places.ts', 'apart += Math.abs(floor - one.floor) || 0', 'apart += 0', 'core/openings'],
  ['core/openings/patterns.ts', 'wallOf(day, rules.earliest ?? 0)', 'wallOf(day, 0)', 'core/openings'],
  [
    'core/openings/score.ts',
    'fairness: Math.round(most - mean)',
    'fairness: Math.round(mean - most)',
    'core/openings',
  ],
  ['core/feeds/read.ts', 'if (older === before) series.set(read.uid, found)', '', 'core/feeds'],
  [
    'core/feeds/event.ts',
    'return at.floating || at.zone === zone ? at.wall',
    'return at.zone === zone ? at.wall',
    'core/feeds',
  ],
  ['core/feeds/event.ts', 'time.second > 0 ? MINUTE : 0', '0', 'core/feeds'],
  ['core/feeds/spans.ts', "state: doubtful ? 'unknown'", "state: doubtful ? 'busy'", 'core/feeds'],
  ['core/feeds/write.ts', 'octets + size > MOST_OCTETS', 'octets + 1 > MOST_OCTETS', 'core/feeds'],
  ['core/invitations/index.ts', 'reply.stamp < answered', 'reply.stamp > answered', 'core/invitations'],
  ['core/text/index.ts', ".replace(CONTROLS_WITHIN_LINES, '')", '', 'core/feeds'],
  // server
  ['server/meetings/send.ts', 'await standingIn(sql, askerId, ownerId, now)', '', 'server/sharing/acting'],
  [
    'server/meetings/cancel.ts',
    'following && !ended ? null : date, following)',
    'null, following)',
    'server/meetings/dates',
  ],
  [
    'server/entries/whole.ts',
    "a.answer = 'needs-action' and upper",
    "a.answer <> 'declined' and upper",
    'server/meetings',
  ],
  ['server/meetings/answers.ts', '>= MOST_AN_HOUR', '>= 1000', 'server/meetings/dates'],
  [
    'server/letters/send.ts',
    'meeting.lastEnd + LINK_AFTER',
    'meeting.end + LINK_AFTER',
    'server/meetings/dates',
  ],
  ['server/letters/send.ts', "isRefused(error) ? 'failed' : 'waiting'", "'failed'", 'server/platform/faults'],
  [
    'server/letters/store.ts',
    '"l.tried_at is null and l.state',
    '"l.state',
    'server/letters server/meetings/moment',
  ],
  ['server/letters/calendars.ts', 'written.set(key, text)', '', 'server/letters/calendars'],
  ['server/letters/owed.ts', 'number: (last?.number ?? 0) + 1', 'number: 1', 'server/meetings/change'],
  [
    'server/letters/store.ts',
    'x.vain, x.own desc`',
    'x.vain, x.own`',
    'server/letters server/meetings/change',
  ],
  [
    'server/entries/participants.ts',
    'and coalesce(p.answered_version, 0) < e.asked_version',
    '',
    'server/letters server/meetings/change',
  ],
  ['server/entries/dates.ts', 'date.end > frozen', 'date.end > 0', 'server/entries/dates'],
  [
    'core/entries/names.ts',
    'goesOn(one, one.recurrence + by)',
    'goesOn(one, one.recurrence)',
    'core/entries',
  ],
  [
    'core/letters/told.ts',
    'DATE_FIELDS.every((name) => one[name] === other[name])',
    'JSON.stringify(one) === JSON.stringify(other)',
    'core/letters',
  ],
  [
    'server/entries/changes.ts',
    'if (current.rows[0]?.version !== version) throw changedSince()',
    '',
    'server/entries',
  ],
  [
    'server/entries/changes.ts',
    'if (change.owner_id !== askerId) await stillMay(sql, change, askerId, now)',
    '',
    'server/sharing',
  ],
  [
    'server/entries/routes.ts',
    "if (scope === 'this') return own",
    "if (scope === 'this') return kept.private",
    'server/sharing/matrix',
  ],
  [
    'server/entries/store.ts',
    'and (e.lapses_at is null or e.lapses_at > $4)',
    'and $4::timestamptz is not null',
    'server/openings',
  ],
  [
    'server/openings/store.ts',
    'where e.lapses_at <= $4 union all',
    'where $4::timestamptz is null union all',
    'server/openings',
  ],
  [
    'server/openings/holds.ts',
    `await sql.query("select pg_advisory_xact_lock(hashtextextended('hold ' || $1, 0))", [hold.id])`,
    '',
    'server/openings',
  ],
  [
    'server/reservations/take.ts',
    'readReservations(sql, viewerId, around',
    'readReservations(sql, askerId, around',
    'server/sharing/acting',
  ],
  ['server/reservations/take.ts', '?? neededTwice(resource, its)', '', 'server/meetings/dates'],
  [
    'server/platform/database.ts',
    'const ended = await Promise.allSettled(work)',
    'await Promise.all(work)\n  const ended = await Promise.allSettled(work)',
    'server/platform/database',
  ],
  [
    'server/letters/store.ts',
    "and ($2 or l.state <> 'sent')",
    'and ($2 or true)',
    'server/platform/faults server/letters',
  ],
  [
    'server/platform/pages.ts',
    'file.packed[each] && context.acceptsEncodings(each) === each',
    'file.packed[each]',
    'server/platform/pages',
  ],
  ['server/platform/router.ts', 'return kept.subarray(0, size)', 'return kept', 'server/platform/door'],
  [
    'server/feeds/importing.ts',
    'else if (isNewer(here.entry, next)) tell(next.title',
    'else if (isNewer(next, here.entry) && false) tell(next.title',
    'server/feeds',
  ],
  [
    'server/feeds/keeping.ts',
    "if (read.cut) return { trouble: 'It broke off in the middle.' }",
    '',
    'server/feeds',
  ],
  ['server/feeds/fetch.ts', "  ['2002::', 16],\n", '', 'server/feeds'],
  ['server/feeds/published.ts', "wanted.trim() === '*' || ", '', 'server/feeds'],
  ['server/people/routes.ts', 'tries.client > MOST_FOR_CLIENT', 'tries.client > 10_000', 'server/people'],
  ['server/people/routes.ts', 'if (before) await closeSession(pool, before)', '', 'server/people'],
  [
    'server/availability/domain.ts',
    '(people.length ? [[id, { ...event, people }]] : [])',
    '[[id, event]]',
    'server/sharing/matrix',
  ],
  ['server/platform/live.ts', 'if (listener.session === session) end(stream)', '', 'server/people'],
  ['server/platform/router.ts', 'if (isBroken(given)) {', 'if (given === null) {', 'server/platform/door'],
  [
    'server/reminders/store.ts',
    'where l.minutes = any(coalesce(p.reminders, w.reminders))',
    'where l.minutes = any(w.reminders)',
    'server/reminders',
  ],
  ['core/agenda/document.ts', 'Math.min(wanted, others.length)', 'wanted', 'core/agenda'],
  ['core/agenda/document.ts', '  oneLine(\n', '  (\n', 'core/agenda'],
  ['core/agenda/notes.ts', 'manyLines(lines.join', '(lines.join', 'core/agenda'],
  ['core/conferences/index.ts', 'if (joined > end) {', 'if (joined > begin) {', 'core/conferences'],
  ['core/conversation/index.ts', 'if (isLetter(text[at - 1])) continue', '', 'core/conversation'],
  [
    'server/entries/present.ts',
    'if (!mine && !(',
    'if (!mine && meeting.cancelled && !(',
    'server/sharing/matrix',
  ],
  ['server/platform/sockets.ts', 'if (fromForeignOrigin(context))', 'if (false)', 'server/agenda'],
  ['server/platform/router.ts', 'if (asker) return asker', 'return asker ?? NOBODY', 'server/people'],
  ['server/platform/live.ts', '=> !guest && (!people ||', '=> (!people ||', 'server/conversation'],
  ['server/agenda/room.ts', 'user: { name: seat.name }', '', 'server/agenda'],
  ['server/agenda/room.ts', 'if (bytes + size > most) throw new TooLarge()', '', 'server/agenda'],
  ['server/conversation/store.ts', 'coalesce(d.takes_part, p.every_date)', 'true', 'server/conversation'],
  [
    'server/conversation/store.ts',
    'a.occurrence_id = $3 and a.removed_at',
    'a.removed_at',
    'server/conversation',
  ],
  [
    'server/conferences/routes.ts',
    'if (!isSigned(',
    'if (raw.length === 0 && !isSigned(',
    'server/conferences',
  ],
  [
    'server/conferences/store.ts',
    'left_at = coalesce(attended.left_at, excluded.left_at)',
    'left_at = excluded.left_at',
    'server/conferences',
  ],
  ['server/conferences/store.ts', 'p.id = $3 and p.entry_id = $8', 'p.id = $3', 'server/conferences'],
  ['server/meetings/right-away.ts', 'await lockEntry(sql, params.entryId)', '', 'server/conferences'],
  [
    'server/letters/store.ts',
    'max(l.number) over (partition by l.person_id, l.guest_address) as number',
    'l.number as number',
    'server/meetings/nudge',
  ],
  ['core/conferences/index.ts', '/^https?:/i.test(one) && ', '', 'core/conferences'],
  ['server/entries/rooms.ts', " and conference ->> 'room' > ''", '', 'server/invitations'],
  ['server/sharing/store.ts', "now).sees !== 'nothing'),", "now).sees !== 'busy'),", 'server/sharing'],
  // reservations alone, their rules, requests and closures
  [
    'core/reservations/refusal.ts',
    'place.mine + had >= rules.atOnce',
    'place.mine >= rules.atOnce',
    'server/reservations/rules',
  ],
  [
    'core/reservations/run.ts',
    "return holderDuring(own, span, turnaroundOf(place.rules)) ? 'own' : null",
    'return null',
    'core/reservations',
  ],
  ['core/reservations/run.ts', 'start < Math.max(first, now) || ', '', 'core/reservations'],
  ['core/reservations/counted.ts', 'mergeSpans(spans)', 'spans', 'core/reservations'],
  [
    'server/reservations/store.ts',
    "lapses_at = case when state = 'requested' then lapses_at end",
    'lapses_at = null',
    'server/meetings/requests',
  ],
  [
    'server/reservations/store.ts',
    "($4 and d.was = 'taken' and e.lapses_at is null)",
    "($4 and d.was = 'held' and e.lapses_at is null)",
    'server/meetings/requests',
  ],
  [
    'server/reservations/requests.ts',
    ' and p.steward_id = $3 and o.entry_id',
    ' and o.entry_id',
    'server/meetings/requests',
  ],
  [
    'server/reservations/listing.ts',
    'or (r.person_id = $1 and coalesce',
    'or (coalesce',
    'server/reservations/listing',
  ],
  ['server/reservations/csv.ts', 'escape_formulas: true, ', '', 'server/reservations/listing'],
  ['server/meetings/closing.ts', 'if (unseen.length > 0)', 'if (false)', 'server/meetings/closing'],
  [
    'server/meetings/requests.ts',
    'if (meeting.repeats && goesOn)',
    'if (meeting.repeats && false)',
    'server/meetings/requests',
  ],
  ['core/reservations/make-room.ts', '!standing.barred?.has(to.id) &&\n', '', 'core/reservations/make-room'],
  [
    'core/reservations/make-room.ts',
    '.filter((one) => !gone.has(one.id))',
    '',
    'core/reservations/make-room',
  ],
  [
    'server/exchanges/answering.ts',
    'one.start === move.start && one.end === move.end',
    'true',
    'server/exchanges/exchanges',
  ],
  [
    'server/exchanges/answering.ts',
    'const waiting = asked.moves.some((one) => !one.agreed && one.personId !== askerId)',
    'const waiting = false',
    'server/exchanges/exchanges',
  ],
  ['server/exchanges/asking.ts', 'if (!found || !asLooked)', 'if (!found)', 'server/exchanges/exchanges'],
  ['server/exchanges/store.ts', 'case when x.asker_id = $1 and ', 'case when ', 'server/exchanges/exchanges'],
  [
    'server/exchanges/finding.ts',
    'const all = those.length === 1 ? wouldDo(first, places, seats) : those',
    'const all = [first]',
    'server/exchanges/exchanges',
  ],
  [
    'server/proposals/routes.ts',
    'await decideRequests(sql, asked, true, now, recurrence ?? null)',
    'await decideRequests(sql, asked, true, now)',
    'server/proposals',
  ],
  ['server/proposals/propose.ts', 'await findPlaces(sql, wanted, now, entryId)\n', '', 'server/proposals'],
  [
    'core/polls/marks.ts',
    "case 'unknown':\n      return null",
    "case 'unknown':\n      return 'yes'",
    'core/polls',
  ],
  [
    'core/polls/told.ts',
    "case 'invited':\n      return null",
    "case 'invited':\n      return 'decided'",
    'core/polls',
  ],
  ['core/visits/turn.ts', 'const less = mine.visits - theirs.visits ||', 'const less =', 'core/visits'],
  ['core/openings/rows.ts', 'const bare = gap[i] === 1', 'const bare = false', 'core/visits'],
  ['server/polls/reading.ts', 'others: names\n      ?', 'others: true\n      ?', 'server/polls'],
  [
    'server/polls/marking.ts',
    "if (poll.state !== 'open' || poll.closes <= now)",
    'if (poll.closes <= now)',
    'server/polls',
  ],
  [
    'server/polls/deciding.ts',
    'const touched = await letGo(sql, poll, times)\n  const dates',
    'const touched = []\n  const dates',
    'server/polls',
  ],
  ['server/polls/marking.ts', 'link.revoked || link.expiresAt', 'link.expiresAt', 'server/polls'],
  ['server/visits/booking.ts', '  await lockHosts(sql, hostsOf(kind))\n', '', 'server/visits'],
  ['server/visits/booking.ts', '  await keepGaps(sql, sent.entryId, hosts, terms)\n', '', 'server/visits'],
  [
    'server/visits/offering.ts',
    "return terms.together === 'together' && agreed.length < hosts.length ? [] : agreed",
    'return hosts.map((host) => host.id)',
    'server/visits',
  ],
  [
    'server/visits/booking.ts',
    'if (!kind?.on) throw notHere()',
    'if (!kind) throw notHere()',
    'server/visits',
  ],
  ['server/entries/gaps.ts', "and a.answer <> 'declined'", '', 'server/visits'],
  [
    'server/reservations/requests.ts',
    'and r.resource_id = $2 and p.steward_id = $3 and r.state',
    'and r.resource_id = $2 and $3::uuid is not null and r.state',
    'server/proposals',
  ],
  [
    'server/platform/clean.ts',
    "tag === 'img' && !FILE.test(attribs['data-file'] ?? '')",
    'false',
    'server/entries/entries',
  ],
  ['server/entries/attachments.ts', 'if (before) return before\n', '', 'server/entries/entries'],
  ['server/entries/attachments.ts', 'strpos(note, $2) > 0', 'false', 'server/entries/entries'],
  ['server/resources/keeping.ts', 'and r.version = d.version', '', 'server/resources/keeping'],
  [
    'server/resources/keeping-routes.ts',
    'if (plan !== query.plan)',
    'if (false)',
    'server/resources/keeping',
  ],
  [
    'server/resources/keeping-routes.ts',
    'if (found && PICTURES.includes(found.mime))',
    'if (found)',
    'server/resources/keeping',
  ],
  ['server/resources/list-file.ts', 'escape_formulas: true, ', '', 'server/resources/keeping'],
  [
    'core/reservations/place-list.ts',
    "if (before && !before.mine) words.push('is looked after by somebody else')",
    '',
    'core/reservations/place-list',
  ],
  [
    'server/letters/owed.ts',
    '!one.organizer || alone || ',
    '!one.organizer || ',
    'server/meetings/reserving',
  ],
  ['server/meetings/routes.ts', ' && !placed.has(entryId)', '', 'server/meetings/reserving'],
]

const only = process.argv[2] ?? ''
const copy = mkdtempSync(join(tmpdir(), 'marmot-faults-'))
const parts = ['core', 'contract', 'server', 'web', 'standins', 'demo', 'scripts']
for (const part of [...parts, 'package.json', 'tsconfig.json', 'vitest.config.ts'])
  cpSync(join(root, part), join(copy, part), {
    recursive: true,
    filter: (from) => !/\/(node_modules|dist)(\/|$)/.test(from),
  })
symlinkSync(join(root, 'node_modules'), join(copy, 'node_modules'))

let noticed = 0
let tried = 0
const missed = []
try {
  for (const [file, from, to, tests] of FAULTS) {
    if (!file.includes(only)) continue
    const path = join(copy, file)
    const whole = readFileSync(path, 'utf8')
    if (whole.split(from).length !== 2) {
      console.log(`not there once: ${file}: ${from.slice(0, 80)}`)
      process.exitCode = 1
      continue
    }
    writeFileSync(
      path,
      whole.replace(from, () => to),
    )
    const args = ['run', '--project', file.startsWith('core/') ? 'core' : 'server', ...tests.split(' ')]
    const done = spawnSync(join(root, 'node_modules', '.bin', 'vitest'), args, {
      cwd: copy,
      encoding: 'utf8',
    })
    writeFileSync(path, whole)
    tried++
    if (done.status === 0) missed.push(`${file}: ${from.slice(0, 100).trim()}`)
    else noticed++
    console.log(`${done.status === 0 ? 'NOT noticed' : 'noticed    '} ${file}: ${from.slice(0, 80).trim()}`)
  }
} finally {
  rmSync(copy, { recursive: true, force: true })
}
console.log(`\n${noticed} of ${tried} faults were noticed`)
for (const each of missed) console.log(`not noticed: ${each}`)
if (missed.length) process.exitCode = 1
