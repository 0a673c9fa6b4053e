import { z } from 'zod'
import { previewAvailability, readAvailability } from './availability.ts'
import {
  addAttachment,
  changeEntry,
  createEntry,
  deleteAttachment,
  deleteCategory,
  deleteEntry,
  keepMine,
  listCategories,
  listChanges,
  listEntries,
  putCategory,
  readAttachment,
  readEntry,
  restoreAttachment,
  undoChange,
} from './entries.ts'
import {
  deleteFeed,
  exportCalendar,
  fetchFeed,
  listFeeds,
  previewImport,
  publishFeed,
  putFeed,
  readFeedSpans,
  readPublished,
  revokeFeed,
  takeImport,
} from './feeds.ts'
import { deleteLayerSet, listLayerSets, putLayerSet } from './layers.ts'
import { events, health, openApi } from './live.ts'
import {
  answerInvitation,
  answerMeeting,
  cancelMeeting,
  readInvitation,
  readMeeting,
  renewInvitation,
  sendMeeting,
} from './meetings.ts'
import { listNow } from './now.ts'
import {
  deleteTemplate,
  findOpenings,
  listTemplates,
  putHold,
  putTemplate,
  readBalance,
  readHold,
  releaseHold,
} from './openings.ts'
import {
  putPreferences,
  readPeople,
  readPreferences,
  searchPeople,
  signIn,
  signInChoices,
  signOut,
  signOutElsewhere,
  whoAmI,
} from './people.ts'
import { dismissReminder, listReminders, snoozeReminder } from './reminders.ts'
import { listReservations, listResources } from './resources.ts'
import { type AnyRoute, problem } from './route.ts'
import { deleteSharing, listSharing, putSharing } from './sharing.ts'

/** Every route of the HTTP interface. The server refuses to start when one of them has no handler. */
export const routes: readonly AnyRoute[] = [
  signIn,
  whoAmI,
  signOut,
  signOutElsewhere,
  signInChoices,
  searchPeople,
  readPeople,
  readPreferences,
  putPreferences,
  listSharing,
  putSharing,
  deleteSharing,
  readAvailability,
  previewAvailability,
  listLayerSets,
  putLayerSet,
  deleteLayerSet,
  listEntries,
  createEntry,
  changeEntry,
  deleteEntry,
  readEntry,
  keepMine,
  undoChange,
  listChanges,
  listCategories,
  putCategory,
  deleteCategory,
  addAttachment,
  readAttachment,
  deleteAttachment,
  restoreAttachment,
  listFeeds,
  publishFeed,
  revokeFeed,
  putFeed,
  deleteFeed,
  fetchFeed,
  readFeedSpans,
  readPublished,
  exportCalendar,
  previewImport,
  takeImport,
  listResources,
  listReservations,
  findOpenings,
  readBalance,
  listTemplates,
  putTemplate,
  deleteTemplate,
  putHold,
  readHold,
  releaseHold,
  sendMeeting,
  readMeeting,
  cancelMeeting,
  answerMeeting,
  listNow,
  listReminders,
  snoozeReminder,
  dismissReminder,
  readInvitation,
  answerInvitation,
  renewInvitation,
  events,
  health,
  openApi,
]

const schemaOf = (type: z.ZodType, io: 'input' | 'output') =>
  z.toJSONSchema(type, { io, unrepresentable: 'any' })

const parametersOf = (place: 'path' | 'query', type: z.ZodType) => {
  const schema = schemaOf(type, 'input')
  return Object.entries(schema.properties ?? {}).map(([name, shape]) => ({
    name,
    in: place,
    required: place === 'path' || (schema.required ?? []).includes(name),
    schema: shape,
  }))
}

const bodyOf = (route: AnyRoute) =>
  route.rawBytes
    ? { 'application/octet-stream': { schema: { type: 'string', maxLength: route.rawBytes } } }
    : { 'application/json': { schema: schemaOf(route.body, 'input') } }

/** The OpenAPI 3.1 description of every route, made from the contract. */
export const describe = (): Record<string, unknown> => {
  const paths: Record<string, Record<string, unknown>> = {}
  for (const each of routes) {
    const path = each.path.replace(/:(\w+)/g, '{$1}')
    const bodied = each.method === 'POST' || each.method === 'PUT'
    paths[path] = {
      ...paths[path],
      [each.method.toLowerCase()]: {
        summary: each.summary,
        parameters: [
          ...parametersOf('path', each.params),
          ...parametersOf('query', each.query),
          ...(each.repeatable
            ? [{ name: 'Idempotency-Key', in: 'header', required: true, schema: { type: 'string' } }]
            : []),
        ],
        ...(bodied ? { requestBody: { content: bodyOf(each) } } : {}),
        responses: {
          200: {
            description: 'Done',
            content: each.answersFile
              ? { '*/*': {} }
              : { 'application/json': { schema: schemaOf(each.answer, 'output') } },
          },
          default: {
            description: 'A problem (RFC 9457)',
            content: { 'application/problem+json': { schema: schemaOf(problem, 'output') } },
          },
        },
        security: each.who === 'person' ? [{ session: [] }] : [],
      },
    }
  }
  return {
    openapi: '3.1.0',
    info: { title: 'Marmot', version: '0.1.0' },
    paths,
    components: { securitySchemes: { session: { type: 'apiKey', in: 'cookie', name: 'marmot_session' } } },
  }
}
