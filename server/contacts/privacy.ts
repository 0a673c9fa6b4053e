import type { Privacy } from '../testing/privacy.ts'

export const privacy: Privacy = {
  'GET /api/contacts': () => [{ path: '/api/contacts' }],
  'GET /api/contacts/about': (about) => [
    { path: `/api/contacts/about?kind=entry&id=${about.entryId}` },
    { path: `/api/contacts/about?kind=todo&id=${about.todoId}` },
  ],
  'GET /api/contacts/file': () => [{ path: '/api/contacts/file' }],
  'POST /api/contacts/file': 'what was just sent',
  'GET /api/contacts/{contactId}': (about) => [{ path: `/api/contacts/${about.contactId}` }],
  'POST /api/contacts': 'what was just sent',
  'PUT /api/contacts/{contactId}': (about) => [
    { path: `/api/contacts/${about.contactId}`, body: { name: 'Mine now', version: 1 } },
  ],
  'DELETE /api/contacts/{contactId}': (about) => [{ path: `/api/contacts/${about.contactId}` }],
  'POST /api/contacts/{contactId}/restore': (about) => [{ path: `/api/contacts/${about.contactId}/restore` }],
  'PUT /api/contacts/{contactId}/about': (about) => [
    {
      path: `/api/contacts/${about.contactId}/about`,
      body: { kind: 'entry', id: about.entryId, about: true },
    },
  ],
}
