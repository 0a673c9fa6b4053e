import { clockText, dayOf, minuteOf, shortDay, toWall } from '@marmot/core/time'
import { CircleHelp, LogOut, Mail, Moon, Printer, Settings, Sun, SunMoon } from 'lucide-react'
import { DropdownMenu } from 'radix-ui'
import { useNavigate } from 'react-router'
import { useDaylight } from '../platform/daylight.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { MY_BUTTON, MyName } from './my-name.tsx'

const LIGHTS = {
  system: { icon: SunMoon, words: 'as the system' },
  day: { icon: Sun, words: 'day' },
  dusk: { icon: Moon, words: 'dusk' },
} as const

const ITEM =
  'flex min-h-9 cursor-pointer items-center gap-2.5 rounded px-2.5 outline-none data-highlighted:bg-shade max-md:min-h-thumb'

/** Everything about oneself: settings, light, keys, the way out. */
export const MyMenu = ({ onLeave }: { onLeave: () => void }) => {
  const { person, session, zone } = useMe()
  const now = useNow()
  const navigate = useNavigate()
  const { light, turn } = useDaylight()
  const { icon: Light, words } = LIGHTS[light]
  const wall = toWall(zone, now)
  const site = session.sites.find((each) => each.id === person.siteId)
  return (
    <DropdownMenu.Root modal={false} defaultOpen>
      <DropdownMenu.Trigger
        className={MY_BUTTON}
        aria-label={`${person.name}: settings, light, keys, sign out`}
      >
        <MyName name={person.name} />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={6}
          className="z-50 min-w-64 rounded-lg border border-line bg-paper p-1 text-ink shadow-xl"
        >
          <DropdownMenu.Label className="px-2.5 py-1.5 text-soft text-sm">
            <b className="block font-semibold text-ink">{person.name}</b>
            {site?.name} {shortDay(dayOf(wall))} {clockText(minuteOf(wall))}
          </DropdownMenu.Label>
          <DropdownMenu.Item className={ITEM} onSelect={() => navigate('/settings')}>
            <Settings size={16} aria-hidden /> Settings
          </DropdownMenu.Item>
          <DropdownMenu.Item
            className={ITEM}
            onSelect={(event) => {
              // It stays open, so that one sees what comes next.
              event.preventDefault()
              turn()
            }}
          >
            <Light size={16} aria-hidden /> Light: {words}
          </DropdownMenu.Item>
          <DropdownMenu.Item
            className={ITEM}
            onSelect={() =>
              setTimeout(() => document.dispatchEvent(new KeyboardEvent('keydown', { key: '?' })))
            }
          >
            <CircleHelp size={16} aria-hidden /> Keys of this screen
          </DropdownMenu.Item>
          {/* Once the menu has gone: it would be on the paper, too. */}
          <DropdownMenu.Item className={ITEM} onSelect={() => setTimeout(() => window.print(), 150)}>
            <Printer size={16} aria-hidden /> Print this screen
          </DropdownMenu.Item>
          {session.mailbox && (
            <DropdownMenu.Item className={ITEM} asChild>
              <a href={session.mailbox} target="_blank" rel="noreferrer">
                <Mail size={16} aria-hidden /> Demo letters
              </a>
            </DropdownMenu.Item>
          )}
          <DropdownMenu.Item className={ITEM} onSelect={onLeave}>
            <LogOut size={16} aria-hidden /> Sign out
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}
