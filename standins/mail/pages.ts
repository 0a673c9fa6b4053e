import type { KeptMail, Mailboxes } from './mailboxes.ts'

const signs: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&#39;' }
const safe = (text: string) => text.replace(/[&<>"']/g, (sign) => signs[sign] ?? sign)

const STYLE = `
  :root { color-scheme: light; font: 15px/1.5 system-ui, sans-serif; color: #1e2b2a; background: #f4f1ea }
  body { margin: 0 auto; max-width: 60rem; padding: 1rem 1.25rem 3rem }
  h1 { font-size: 1.2rem; margin: .5rem 0 }
  .hint { color: #55605e; margin: 0 0 1rem }
  a { color: #4a2f86 }
  ul { list-style: none; padding: 0; margin: 0 }
  li { border-top: 1px solid #d9d3c5; padding: .45rem 0; display: flex; gap: 1rem; align-items: baseline }
  li a { flex: 1; overflow-wrap: anywhere }
  pre { background: #fffdf8; border: 1px solid #d9d3c5; border-radius: 6px; padding: .8rem; white-space: pre-wrap; overflow-wrap: anywhere }
  form { display: flex; flex-wrap: wrap; gap: .5rem; margin: 1rem 0; align-items: end }
  label { display: flex; flex-direction: column; flex: 1 1 16rem }
  input, button { font: inherit; padding: .45rem .8rem; border: 1px solid #8c8675; border-radius: 6px; background: #fffdf8; color: inherit }
  button { cursor: pointer }
  .said { padding: .6rem .8rem; border-left: 4px solid #5a3e9b; background: #fffdf8 }
  .refused { border-color: #b4432f }
`

const page = (title: string, body: string) =>
  `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1"><title>${safe(title)}</title><style>${STYLE}</style></head><body><main>${body}</main></body></html>`

const HINT =
  '<p class="hint">A simulated mail server: nothing here leaves this machine. Play anybody who gets mail from Marmot.</p>'

/** The list of all mailboxes. */
export const mailboxesPage = (mailboxes: Mailboxes): string => {
  const rows = mailboxes
    .list()
    .map(
      ({ address, count }) =>
        `<li><a href="/box/${encodeURIComponent(address)}">${safe(address)}</a><span>${count} ${count === 1 ? 'letter' : 'letters'}</span></li>`,
    )
  return page(
    'Mailboxes',
    `<h1>Mailboxes</h1>${HINT}${rows.length ? `<ul>${rows.join('')}</ul>` : '<p>No letters yet.</p>'}`,
  )
}

export const mailboxPage = (address: string, mails: readonly KeptMail[]): string => {
  const rows = mails.map(
    (mail) =>
      `<li><a href="/box/${encodeURIComponent(address)}/${encodeURIComponent(mail.id)}">${safe(mail.subject)}</a><span>${safe(mail.fromName)}</span></li>`,
  )
  return page(
    address,
    `<p><a href="/">All mailboxes</a></p><h1>${safe(address)}</h1>${rows.length ? `<ul>${rows.join('')}</ul>` : '<p>No letters yet.</p>'}`,
  )
}

const linked = (text: string) =>
  safe(text).replace(/https?:\/\/[^\s<]+/g, (address) => `<a href="${address}">${address}</a>`)

export const mailPage = (mail: KeptMail, said: { words: string; refused: boolean } | null): string => {
  const here = `/box/${encodeURIComponent(mail.to)}`
  const answer =
    mail.method === 'REQUEST'
      ? `<form method="post" action="${here}/${encodeURIComponent(mail.id)}/reply"><label>Words with the answer<input name="comment"></label>
         <button name="answer" value="accepted">Reply yes</button><button name="answer" value="tentative">Reply perhaps</button><button name="answer" value="declined">Reply no</button></form>
         <form method="post" action="${here}/${encodeURIComponent(mail.id)}/reply"><label>Propose another time, in UTC<input type="datetime-local" name="start"></label>
         <label>Minutes<input name="minutes" value="60"></label><label>Words<input name="comment"></label><button name="answer" value="propose">Propose it</button></form>
         <form method="post" action="${here}/${encodeURIComponent(mail.id)}/reply"><label>Pass it on to<input name="delegate" type="email"></label><button name="answer" value="delegate">Pass it on</button></form>`
      : ''
  const note = said
    ? `<p class="said${said.refused ? ' refused' : ''}" role="status">${safe(said.words)}</p>`
    : ''
  return page(
    mail.subject,
    `<p><a href="${here}">${safe(mail.to)}</a></p><h1>${safe(mail.subject)}</h1><p class="hint">From ${safe(mail.fromName)} (${safe(mail.from)})</p>${note}<pre>${linked(mail.text)}</pre>${answer}<details><summary>Calendar part</summary><pre>${safe(mail.calendar)}</pre></details>`,
  )
}

export const lostPage = (): string =>
  page('Not found', '<p><a href="/">All mailboxes</a></p><h1>There is no such letter.</h1>')
