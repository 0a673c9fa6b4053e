import { describe, expect, it } from 'vitest'
import { z } from 'zod'
import { timeEvent } from './availability.ts'
import { createEntry } from './entries.ts'
import { meetingEvent, sendMeeting } from './meetings.ts'
import { describe as describeRoutes } from './openapi.ts'
import { putPreferences } from './people.ts'
import { placeOf, type Resource } from './resources.ts'
import { type AnyRoute, address } from './route.ts'

/** Every route of the contract, whichever domain's it is. */
const routes = Object.values(
  import.meta.glob<Record<string, unknown>>(['./*.ts', '!./*.test.ts'], { eager: true }),
)
  .flatMap((module) => Object.values(module))
  .filter(
    (one): one is AnyRoute =>
      typeof one === 'object' && one !== null && 'method' in one && 'path' in one && 'answer' in one,
  )

const ID = '4f0e8a52-3a1b-4c7d-9e2f-1a2b3c4d5e6f'

describe('what comes in', () => {
  it('reads addresses in one spelling and refuses what is none', () => {
    expect(address.parse('  Noor.Haddad@Lodestar.Example ')).toBe('noor.haddad@lodestar.example')
    for (const wrong of ['noor', 'noor@', 'noor at lodestar', ''])
      expect(address.safeParse(wrong).success).toBe(false)
  })

  it('takes days of years that somebody can mean, wherever one comes in', () => {
    const preferred = (fromDay: string) =>
      putPreferences.body.safeParse({
        firstWeekday: 1,
        shownFrom: 480,
        shownTo: 1140,
        halfDayClock: false,
        locale: 'en-GB',
        secondZone: null,
        zone: 'Europe/Vienna',
        zoneChanges: [{ fromDay, zone: 'Asia/Kathmandu' }],
        hours: [],
        reminders: [],
        remindsByMail: false,
      }).success
    expect(['2026-12-03', '2026-02-30', '0000-01-01', '9999-12-31', '1899-12-31'].map(preferred)).toEqual([
      true,
      false,
      false,
      false,
      false,
    ])
  })

  it('fills what was left out and trims words', () => {
    const read = createEntry.body.parse({
      title: '  Defrost ',
      starts: '2026-12-03T10:45',
      minutes: 45,
      zone: 'Europe/Vienna',
    })
    expect(read).toMatchObject({ title: 'Defrost', place: '', shows: 'busy', private: false })
  })

  it('refuses half minutes, strange states and too many people, naming where', () => {
    const meeting = {
      title: 'x',
      starts: '2026-12-03T10:45',
      minutes: 45.5,
      zone: 'UTC',
      people: [],
      guests: [],
      places: [],
    }
    const wrong = sendMeeting.body.safeParse({
      ...meeting,
      guests: [{ address: 'nobody', name: '', required: true }],
    })
    expect(wrong.error?.issues.map((issue) => issue.path.join('.')).sort()).toEqual([
      'guests.0.address',
      'minutes',
    ])
    const crowd = Array.from({ length: 501 }, () => ({ id: ID, required: true }))
    expect(sendMeeting.body.safeParse({ ...meeting, minutes: 45, people: crowd }).success).toBe(false)
  })
})

describe('live events', () => {
  it('have no field that could carry words', () => {
    const read = meetingEvent.parse({ kind: 'meeting', entryId: ID, people: [ID], title: 'a secret' })
    expect(Object.keys(read).sort()).toEqual(['entryId', 'kind', 'people'])
    expect(timeEvent.safeParse({ kind: 'time', people: ['Tashi Lhendup'] }).success).toBe(false)
  })
})

describe('openapi.json', () => {
  const shape = z.object({
    paths: z.record(
      z.string(),
      z.record(
        z.string(),
        z.object({
          summary: z.string(),
          parameters: z.array(z.object({ name: z.string(), in: z.string() })),
          responses: z.record(z.string(), z.unknown()),
          requestBody: z.unknown().optional(),
        }),
      ),
    ),
  })
  const { paths } = shape.parse(describeRoutes(routes))

  it('describes every route with its answer and its problems', () => {
    for (const route of routes) {
      const described = paths[route.path.replace(/:(\w+)/g, '{$1}')]?.[route.method.toLowerCase()]
      expect(Object.keys(described?.responses ?? {})).toEqual(['200', 'default'])
      expect(described?.summary).toBe(route.summary)
    }
  })

  it('names path parameters and the key of what can be repeated', () => {
    expect(paths['/api/meetings/{entryId}/answer']?.post?.parameters).toContainEqual(
      expect.objectContaining({ name: 'entryId', in: 'path' }),
    )
    expect(paths['/api/meetings']?.post?.parameters).toContainEqual(
      expect.objectContaining({ name: 'Idempotency-Key', in: 'header' }),
    )
    expect(paths['/api/meetings']?.post?.requestBody).toBeDefined()
  })
})

describe('a place on its lane', () => {
  const resource: Resource = {
    id: ID,
    name: 'Cold lab −20',
    kind: 'lab',
    siteId: ID,
    site: 'Innsbruck',
    floor: '−1',
    seats: 3,
    features: {},
    about: '',
    picture: null,
    rules: {
      trainedOnly: true,
      teams: [],
      asksApproval: false,
      approvalHours: 48,
      hours: [],
      before: 0,
      after: 30,
      shortest: null,
      longest: null,
      aheadDays: null,
      notice: null,
      atOnce: null,
    },
    closed: [],
    mayNot: null,
    mine: 0,
    steward: null,
    looksAfter: false,
    zone: 'Europe/Vienna',
  }
  const taken = {
    id: ID,
    resourceId: ID,
    start: '2026-12-03T09:00:00Z',
    end: '2026-12-03T10:00:00Z',
    state: 'busy' as const,
    by: 'Matteo Ruprechter',
    mine: false,
    requested: false,
  }

  it('carries the turnaround after each reservation, and who has it where the title may not be known', () => {
    const { time } = placeOf(resource, [
      taken,
      { ...taken, resourceId: '00000000-0000-4000-8000-000000000000' },
    ])
    expect(time.spans).toEqual([
      {
        start: Date.parse(taken.start),
        end: Date.parse('2026-12-03T10:30:00Z'),
        state: 'busy',
        title: 'Matteo Ruprechter',
      },
    ])
  })

  it('that asks for approval is not to be taken at once', () => {
    expect(placeOf({ ...resource, rules: { ...resource.rules, asksApproval: true } }, []).mayTake).toBe(false)
  })
})
