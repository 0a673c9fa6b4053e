import { useBrief } from './brief.tsx'
import { Chip, CountField } from './chips.tsx'
import type { Arranging, Member } from './use-arranging.ts'

const FIELD = 'w-full min-w-0 rounded-md border border-soft/50 bg-paper px-2 py-1'
const NEW_GROUP = 'new'
const MOST_GROUPS = 6

/** "5 people · 1 optional · 2 of observers · 1 guest". */
const peopleWords = (members: readonly Member[], groups: Arranging['brief']['groups']): string => {
  const guests = members.filter((member) => !member.person && !member.pending).length
  const optional = members.filter((member) => !member.required && !member.group).length
  const people = members.length - guests
  return [
    `${people} ${people === 1 ? 'person' : 'people'}`,
    optional ? `${optional} optional` : '',
    ...groups.map((group) => `any ${group.atLeast} of ${group.name}`),
    guests ? `${guests} ${guests === 1 ? 'guest' : 'guests'}` : '',
  ]
    .filter(Boolean)
    .join(' · ')
}

/** Who has to come, who may, and groups of whom some are enough. */
export const PeopleChip = ({ arranging }: { arranging: Arranging }) => {
  const { brief, change } = useBrief()
  const { members, me } = arranging
  const { groups } = brief
  const others = members.filter((member) => member.id !== me.id)
  const put = (id: string, role: string) => {
    const fresh =
      role === NEW_GROUP
        ? { id: crypto.randomUUID().slice(0, 8), name: `group ${groups.length + 1}`, atLeast: 1 }
        : null
    const group = fresh?.id ?? (groups.some((each) => each.id === role) ? role : null)
    const people = brief.people.map((one) =>
      one.id === id ? { ...one, required: role === 'required', group } : one,
    )
    const kept = [...groups, ...(fresh ? [fresh] : [])].filter((each) =>
      people.some((one) => one.group === each.id),
    )
    change({
      people,
      groups: kept.map((each) => ({
        ...each,
        atLeast: Math.min(each.atLeast, people.filter((one) => one.group === each.id).length),
      })),
      guests: brief.guests.map((one) =>
        one.address === id ? { ...one, required: role !== 'optional' } : one,
      ),
    })
  }
  if (others.length === 0) return null
  return (
    <Chip label="People" words={peopleWords(members, groups)}>
      <div className="flex max-h-[60dvh] flex-col gap-2 overflow-y-auto text-sm">
        {others.map((member) => (
          <label key={member.id} className="grid grid-cols-2 items-center gap-2">
            <span className="truncate">{member.name}</span>
            <select
              className={FIELD}
              value={member.group ?? (member.required ? 'required' : 'optional')}
              onChange={(event) => put(member.id, event.target.value)}
            >
              <option value="required">required</option>
              <option value="optional">optional</option>
              {member.person &&
                groups.map((group) => (
                  <option key={group.id} value={group.id}>
                    one of {group.name}
                  </option>
                ))}
              {member.person && groups.length < MOST_GROUPS && (
                <option value={NEW_GROUP}>one of a new group</option>
              )}
            </select>
          </label>
        ))}
        {groups.map((group) => {
          const size = brief.people.filter((one) => one.group === group.id).length
          const set = (next: Partial<typeof group>) =>
            change({ groups: groups.map((each) => (each.id === group.id ? { ...each, ...next } : each)) })
          return (
            <div
              key={group.id}
              className="grid grid-cols-[1fr_auto] items-end gap-2 border-line border-t pt-2"
            >
              <label className="flex flex-col">
                Name of the group
                <input
                  className={FIELD}
                  value={group.name}
                  maxLength={60}
                  onChange={(event) => set({ name: event.target.value })}
                />
              </label>
              <div className="w-28">
                <CountField
                  label={`At least, of ${size}`}
                  none="1"
                  most={size}
                  value={group.atLeast}
                  onCount={(atLeast) => set({ atLeast: atLeast ?? 1 })}
                />
              </div>
            </div>
          )
        })}
      </div>
    </Chip>
  )
}
