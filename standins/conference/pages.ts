import { page, safe } from '../page.ts'
import type { Room, Seat } from './rooms.ts'

const HINT =
  '<p class="hint">A simulated conference service: there is no picture and no sound, and nothing leaves this machine.</p>'

const clock = (at: number): string => new Date(at).toISOString().slice(11, 19)

const there = (room: Room): Seat[] => room.seats.filter((one) => one.left === null)

const people = (room: Room): string =>
  there(room).length
    ? `<ul>${there(room)
        .map(
          (one) =>
            `<li><span>${safe(one.name)}${one.via === 'telephone' ? ', by telephone' : ''}</span></li>`,
        )
        .join('')}</ul>`
    : '<p>Nobody is here yet.</p>'

/** All rooms, and the telephone: calls in and calls out are played here. */
export const roomsPage = (rooms: readonly Room[], said: string): string =>
  page(
    'Conference service',
    `<h1>Conference service</h1>${HINT}${said && `<p class="said">${safe(said)}</p>`}
<form method="post" action="/dial-in"><label>Code<input name="code" required inputmode="numeric"></label>
<label>Calling from<input name="number" required placeholder="+43 664 555 0199"></label><button>Call in by telephone</button></form>
${
  rooms.length
    ? rooms
        .slice(-30)
        .reverse()
        .map(
          (room) => `<h2 style="font-size:1rem">${safe(room.title)}${room.over ? ', over' : ''}</h2>
<p class="hint">code ${room.code}, <a href="/r/${room.slug}">the room</a></p><ul>${[
            ...room.ringing.map(
              (number) =>
                `<li><span>${safe(number)} rings</span>${['answer', 'decline'].map((act) => `<form style="margin:0" method="post" action="/r/${room.slug}/${act}"><input type="hidden" name="number" value="${safe(number)}"><button>${act === 'answer' ? 'Answer' : 'Do not answer'}</button></form>`).join('')}</li>`,
            ),
            ...room.seats
              .slice(-20)
              .map(
                (one) =>
                  `<li><span>${safe(one.name)}, ${one.via}, from ${clock(one.joined)}${one.left === null ? '' : ` to ${clock(one.left)}`} UTC</span>${one.left === null ? `<form style="margin:0" method="post" action="/r/${room.slug}/leave"><input type="hidden" name="seat" value="${one.seat}"><button>Hang up</button></form>` : ''}</li>`,
              ),
          ].join('')}</ul>`,
        )
        .join('')
    : '<p>No rooms yet.</p>'
}`,
  )

/** The door of a room: who is in it, and the way in, under a name that a ticket brings along or one types. */
export const doorPage = (room: Room, ticket: string, name: string | null): string =>
  page(
    room.title,
    `<h1>${safe(room.title)}</h1>${HINT}${people(room)}<form method="post" action="/r/${room.slug}/join">${
      name === null
        ? '<label>Your name<input name="name" required maxlength="100" autofocus></label>'
        : `<input type="hidden" name="ticket" value="${safe(ticket)}"><p>You come in as <b>${safe(name)}</b>.</p>`
    }<button>Come in</button></form>`,
  )

/** Inside a room. Leaving the page is leaving the room. */
export const insidePage = (room: Room, seat: Seat): string =>
  page(
    room.title,
    `<h1>${safe(room.title)}</h1>${HINT}<p class="said">You are in, as <b>${safe(seat.name)}</b>.</p>${people(room)}<form method="post" action="/r/${room.slug}/leave"><input type="hidden" name="seat" value="${seat.seat}"><button>Leave</button></form>`,
    `const source = new EventSource('/r/${room.slug}/stay?seat=${seat.seat}'); source.onmessage = () => location.reload()`,
  )

export const leftPage = (room: Room): string =>
  page(
    room.title,
    `<h1>${safe(room.title)}</h1>${HINT}<p class="said">You have left.</p><p><a href="/r/${room.slug}">Come in again</a></p>`,
  )

/** Where there is no room any more. */
export const overPage = (): string =>
  page(
    'Nobody meets here',
    `<h1>Nobody meets here</h1>${HINT}<p>This meeting is over, or its address was cut off on the way. Ask the person who invited you.</p>`,
  )
