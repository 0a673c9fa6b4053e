import { z } from 'zod'
import { type AnyRoute, problem } from './route.ts'

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

/** The OpenAPI 3.1 description of routes, made from the contract. */
export const describe = (routes: Iterable<AnyRoute>): Record<string, unknown> => {
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
