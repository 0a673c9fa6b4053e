import { useState } from 'react'
import { useMe } from '../platform/session.tsx'
import { Choice } from '../ui/parts.tsx'
import type { Arranging } from './use-arranging.ts'

/** Whether what is sent gets a link to join by: unless said otherwise, where somebody is not at my site. */
export const useJoining = ({ members, me }: Pick<Arranging, 'members' | 'me'>) => {
  const { session } = useMe()
  const [said, setSaid] = useState<boolean | null>(null)
  const afar = members.some((member) => member.person?.siteId !== me.siteId)
  const conference = session.conferences && (said ?? afar)
  return {
    conference,
    choice: session.conferences && (
      <Choice checked={conference} onChoose={setSaid}>
        A link and a number to join by
      </Choice>
    ),
  }
}
