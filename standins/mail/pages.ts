import { page, safe } from '../page.ts'
import type { Diary } from './diary.ts'
import type { KeptMail, Mailboxes } from './mailboxes.ts'
import type { Organized } from './organizer.ts'

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
    `<h1>Mailboxes</h1>${HINT}<p><a href="/organize">Invite somebody from outside</a></p>${rows.length ? `<ul>${rows.join('')}</ul>` : '<p>No letters yet.</p>'}`,
  )
}

/** "Wed 2 Dec 2026, 12:00 UTC". */
const when = (at: number): string =>
  `${new Date(at).toLocaleString('en-GB', { weekday: 'short', day: 'numeric', month: 'short', year: 'numeric', hour: '2-digit', minute: '2-digit', timeZone: 'UTC' })} UTC`

/** What is in a diary, in order: so many dates that one sees what came of the letters. */
const diaryPart = (diary: Diary): string => {
  const rows = diary
    .all()
    .slice(0, 60)
    .map(
      (one) =>
        `<li><span>${when(one.start)}</span><span>${safe(one.title)}${one.place ? `, ${safe(one.place)}` : ''}</span></li>`,
    )
  return rows.length
    ? `<details><summary>What the calendar shows</summary><ul>${rows.join('')}</ul></details>`
    : ''
}

const saidPart = (said: { words: string; refused: boolean } | null): string =>
  said ? `<p class="said${said.refused ? ' refused' : ''}" role="status">${safe(said.words)}</p>` : ''

/** Where one plays somebody outside who invites: what was sent, and what can be done with it. */
export const organizerPage = (
  meetings: readonly Organized[],
  said: { words: string; refused: boolean } | null,
): string => {
  const hidden = (uid: string) => `<input type="hidden" name="uid" value="${safe(uid)}">`
  const rows = meetings.map(
    (one) =>
      `<section><h2>${safe(one.title)}</h2><p>${when(one.start)}, ${one.minutes} minutes. From ${safe(one.from)} to ${safe(one.to)}.${one.cancelled ? ' Cancelled.' : ''}</p>${
        one.cancelled
          ? ''
          : `<form method="post">${hidden(one.uid)}<label>Move it to, in UTC<input type="datetime-local" name="start"></label><button name="act" value="move">Move it</button></form>
             <form method="post">${hidden(one.uid)}<label>Why<input name="comment"></label><button name="act" value="cancel">Cancel it</button></form>`
      }</section>`,
  )
  return page(
    'Invite somebody from outside',
    `<p><a href="/">All mailboxes</a></p><h1>Invite somebody from outside</h1>${HINT}${saidPart(said)}
     <form method="post"><label>From<input name="from" type="email" value="noor.haddad@lodestar.example"></label><label>To<input name="to" type="email" value="tashi.lhendup@corrie.example"></label>
     <label>Title<input name="title"></label><label>When, in UTC<input type="datetime-local" name="start"></label><label>Minutes<input name="minutes" value="60"></label><label>Link to join by<input name="link" type="url"></label><button name="act" value="invite">Invite</button></form>${rows.join('')}`,
  )
}

export const mailboxPage = (address: string, mails: readonly KeptMail[], diary: Diary): string => {
  const rows = mails.map(
    (mail) =>
      `<li><a href="/box/${encodeURIComponent(address)}/${encodeURIComponent(mail.id)}">${safe(mail.subject)}</a><span>${safe(mail.fromName)}</span></li>`,
  )
  return page(
    address,
    `<p><a href="/">All mailboxes</a></p><h1>${safe(address)}</h1>${diaryPart(diary)}${rows.length ? `<ul>${rows.join('')}</ul>` : '<p>No letters yet.</p>'}`,
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
  const note = saidPart(said)
  return page(
    mail.subject,
    `<p><a href="${here}">${safe(mail.to)}</a></p><h1>${safe(mail.subject)}</h1><p class="hint">From ${safe(mail.fromName)} (${safe(mail.from)})</p>${note}<pre>${linked(mail.text)}</pre>${mail.html ? `<p><a href="${here}/${encodeURIComponent(mail.id)}/look">As mail programs show it</a></p>` : ''}${answer}<details><summary>Calendar part</summary><pre>${safe(mail.calendar)}</pre></details>`,
  )
}

export const lostPage = (): string =>
  page('Not found', '<p><a href="/">All mailboxes</a></p><h1>There is no such letter.</h1>')
