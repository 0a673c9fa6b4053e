import { signOut } from '@marmot/contract/people'
import { clockText, dayOf, minuteOf, shortDay, shortTime, toWall } from '@marmot/core/time'
import { type QueryClient, useQueryClient } from '@tanstack/react-query'
import { Search, WifiOff } from 'lucide-react'
import { type ReactNode, Suspense, useEffect, useState } from 'react'
import { NavLink, Outlet, useLocation, useNavigate, useSearchParams } from 'react-router'
import { WithBrief } from '../openings/brief.tsx'
import { TrayReminder } from '../openings/tray-reminder.tsx'
import { call } from '../platform/api.ts'
import { type Key, useKeyList, useKeys, WithKeys } from '../platform/keys.tsx'
import { useLive } from '../platform/live.ts'
import { part } from '../platform/part.tsx'
import { problemWords } from '../platform/problem.ts'
import { useAsOf } from '../platform/seen.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import { WithUndo } from '../platform/undo.tsx'
import { Reminders } from '../reminders/reminders.tsx'
import { Loading } from '../ui/parts.tsx'
import { MY_BUTTON, MyName } from './my-name.tsx'
import { Arrange, MyTime, People, Places } from './screens.ts'

interface ScreenLink {
  readonly to: string
  readonly name: string
  readonly key: string
  /** Fetches what it shows, as soon as somebody is about to go there. */
  readonly prepare?: (queries: QueryClient) => void
}

const SCREENS: readonly ScreenLink[] = [
  { to: '/now', name: 'Now', key: '1' },
  { to: '/time', name: 'My time', key: '2', prepare: MyTime.prepare },
  { to: '/arrange', name: 'Arrange', key: '3', prepare: Arrange.prepare },
  { to: '/places', name: 'Places', key: '4', prepare: Places.prepare },
  {
    to: '/people',
    name: 'People',
    key: '5',
    prepare: (queries) => {
      People.prepare()
      // It has thousands.
      void import('../people/people.ts')
        .then((people) => queries.prefetchQuery(people.directoryQuery))
        .catch(() => undefined)
    },
  },
]

const TodoSheet = part(() => import('../todos/todo-sheet.tsx').then((m) => m.TodoSheet))

const ContactSheet = part(() => import('../contacts/contact-sheet.tsx').then((m) => m.ContactSheet))

const MeetingByAddress = part(() => import('./meeting-by-address.tsx').then((m) => m.MeetingByAddress))

const Ringing = part(() => import('../conferences/ringing.tsx').then((m) => m.Ringing), { quiet: true })

const findSheet = () => import('./find-sheet.tsx')
const FindSheet = part(() => findSheet().then((m) => m.FindSheet))

/** What is no part of the first screen is fetched so long after it, in milliseconds. */
const AFTER_FIRST_MS = 1500

/** Opens on Ctrl K or from the bar: finds anything, does anything that has a key here. */
const JumpButton = () => {
  const list = useKeyList()
  const [keys, setKeys] = useState<readonly Key[] | null>(null)
  // No part of the first screen, and there by the time that somebody presses its key.
  useEffect(() => {
    const timer = setTimeout(() => void findSheet().catch(() => undefined), AFTER_FIRST_MS)
    return () => clearTimeout(timer)
  }, [])
  const open = () => setKeys(list())
  useKeys([{ keys: 'Ctrl K', does: 'Find anything', on: 'k', ctrl: true, whileTyping: true, run: open }])
  return (
    <>
      <button
        type="button"
        onClick={open}
        className="flex items-center gap-1.5 rounded-md border border-bar-ink/40 px-2 py-0.5 hover:bg-bar-ink/15 max-md:size-thumb max-md:justify-center max-md:border-transparent"
      >
        <Search size={14} aria-hidden /> <span className="max-md:sr-only">Find… Ctrl K</span>
      </button>
      {keys && (
        <Suspense>
          <FindSheet keys={keys} onDone={() => setKeys(null)} />
        </Suspense>
      )}
    </>
  )
}

const MyMenu = part(() => import('./my-menu.tsx').then((m) => m.MyMenu))

/** Opens what is about oneself. The menu itself is fetched when it is first asked for: the first screen is small. */
const MyButton = ({ onLeave }: { onLeave: () => void }) => {
  const { person } = useMe()
  const [asked, setAsked] = useState(false)
  const button = (
    <button
      type="button"
      onClick={() => setAsked(true)}
      aria-haspopup="menu"
      className={MY_BUTTON}
      aria-label={`${person.name}: settings, light, keys, sign out`}
    >
      <MyName name={person.name} />
    </button>
  )
  return asked ? (
    <Suspense fallback={button}>
      <MyMenu onLeave={onLeave} />
    </Suspense>
  ) : (
    button
  )
}

const Mark = () => (
  <span className="flex shrink-0 items-center gap-2 font-bold text-[17px] max-md:hidden">
    <img src="/mark.svg" alt="" width={26} height={26} />
    <span className="max-md:sr-only">Marmot</span>
  </span>
)

const WaitingCount = part(() => import('../now/waiting-count.tsx').then((m) => m.WaitingCount), {
  quiet: true,
})
const Keeper = part(() => import('./keeper.tsx').then((m) => m.Keeper), { quiet: true })

/** What works on after the first screen is there. */
const After = ({ children }: { children: ReactNode }) => {
  const [ready, setReady] = useState(false)
  useEffect(() => {
    const timer = setTimeout(() => setReady(true), AFTER_FIRST_MS)
    return () => clearTimeout(timer)
  }, [])
  return ready ? <Suspense>{children}</Suspense> : null
}

/** Says that what is shown is from before, and from when. */
const FromBefore = () => {
  const { zone, clock } = useMe()
  const asOf = useAsOf()
  if (asOf === null) return null
  return (
    <p
      role="status"
      className="flex shrink-0 items-center justify-center gap-2 bg-shade px-3 py-1 text-center text-sm"
    >
      <WifiOff size={15} className="shrink-0" aria-hidden />
      <span>
        Not connected. As last seen{' '}
        <b className="whitespace-nowrap font-semibold">{shortTime(asOf + clock() - Date.now(), zone)}</b>.
      </span>
    </p>
  )
}

const Bar = ({ standing }: { standing: boolean }) => {
  const { person, session, zone } = useMe()
  const now = useNow()
  const asOf = useAsOf()
  const queries = useQueryClient()
  const navigate = useNavigate()
  useKeys(
    [...SCREENS, { to: '/settings', name: 'Settings', key: '0' }].map((screen) => ({
      keys: screen.key,
      does: `Go to ${screen.name}`,
      on: screen.key,
      run: () => navigate(screen.to),
    })),
  )
  const leave = async () => {
    try {
      // What was answered without a connection goes out before whoever answered is gone.
      await import('../answers/outbox.ts')
        .then((outbox) => outbox.sendWaiting(person.id))
        .catch(() => undefined)
      await call(signOut)
    } catch (error) {
      // Whoever believes to be signed out, and is not, leaves their time to the next.
      toast.error(`You are still signed in. ${problemWords(error)}`)
      return
    }
    await import('../platform/kept.ts').then((kept) => kept.forget()).catch(() => undefined)
    await import('../answers/outbox.ts').then((outbox) => outbox.dropAll(person.id)).catch(() => undefined)
    sessionStorage.clear()
    queries.clear()
    navigate('/')
    window.location.reload()
  }
  const wall = toWall(zone, now)
  const site = session.sites.find((each) => each.id === person.siteId)
  return (
    <header className="on-screen flex h-11 max-md:h-thumb shrink-0 items-center gap-4 bg-bar px-4 text-bar-ink max-md:gap-2 max-md:px-2">
      <Mark />
      <nav aria-label="Screens" className="flex h-full items-stretch max-md:flex-1">
        {SCREENS.map((screen) => (
          <NavLink
            key={screen.to}
            to={screen.to}
            onPointerEnter={() => screen.prepare?.(queries)}
            onFocus={() => screen.prepare?.(queries)}
            className={({ isActive }) =>
              `relative flex items-center whitespace-nowrap border-b-[3px] px-3 pt-[3px] max-md:px-2 ${isActive ? 'border-sun font-semibold' : 'border-transparent hover:border-bar-ink/40'}`
            }
          >
            {screen.name}
            {screen.to === '/now' && (
              <After>
                <WaitingCount />
              </After>
            )}
          </NavLink>
        ))}
      </nav>
      <div className="ml-auto flex items-center gap-3 whitespace-nowrap text-sm max-md:gap-0">
        {!standing && asOf === null && (
          <span role="status" className="flex items-center gap-1 text-sun">
            <WifiOff size={15} aria-hidden />{' '}
            <span className="max-md:sr-only">Not live: connecting again…</span>
          </span>
        )}
        <JumpButton />
        <span className="max-md:hidden">
          {site?.name} {shortDay(dayOf(wall))} <b>{clockText(minuteOf(wall))}</b>
        </span>
        <MyButton onLeave={leave} />
      </div>
    </header>
  )
}

const Skip = () => (
  <a
    href="#main"
    className="sr-only rounded bg-paper px-3 py-1 focus:not-sr-only focus:absolute focus:top-1 focus:left-1 focus:z-50"
  >
    Skip to the screen
  </a>
)

/** The bar, the screen, and the brief in hand, which stays while one goes from screen to screen. */
export const Shell = () => {
  const { person } = useMe()
  const standing = useLive(person.id)
  const { pathname } = useLocation()
  const [search] = useSearchParams()
  return (
    <WithKeys>
      <WithUndo>
        <WithBrief>
          <div className="flex h-full flex-col">
            <Skip />
            <Bar standing={standing} />
            <FromBefore />
            <main id="main" tabIndex={-1} className="flex min-h-0 flex-1 flex-col outline-none">
              <Suspense
                fallback={
                  <div className="p-6">
                    <Loading what="the screen" />
                  </div>
                }
              >
                <Outlet />
              </Suspense>
            </main>
            {pathname !== '/arrange' && <TrayReminder />}
          </div>
          <Reminders />
          <After>
            <Keeper standing={standing} />
          </After>
          <Suspense>
            <Ringing />
          </Suspense>
          {search.get('todo') && (
            <Suspense>
              <TodoSheet />
            </Suspense>
          )}
          {search.get('contact') && (
            <Suspense>
              <ContactSheet />
            </Suspense>
          )}
          {search.get('meeting') && (
            <Suspense>
              <MeetingByAddress />
            </Suspense>
          )}
        </WithBrief>
      </WithUndo>
    </WithKeys>
  )
}
