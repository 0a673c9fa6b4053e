import type { Exchange } from '@marmot/contract/asked'
import { useNavigate } from 'react-router'
import { RoomCard } from '../exchanges/room-card.tsx'
import { useBrief } from '../openings/brief.tsx'
import { briefOfWish } from '../openings/room-then.ts'
import { useMe, useNow } from '../platform/session.tsx'

/** Room that is asked for; what would have been sent once there is any can be taken in hand again. */
export const Rooms = ({ exchanges }: { exchanges: readonly Exchange[] }) => {
  const { zone, person } = useMe()
  const now = useNow()
  const navigate = useNavigate()
  const { takeUp } = useBrief()
  return (
    <ul className="flex flex-col gap-2">
      {exchanges.map((exchange) => (
        <RoomCard
          key={exchange.exchangeId}
          exchange={exchange}
          onAgain={(wish) => {
            takeUp(briefOfWish(wish, Date.parse(exchange.start), { now, zone, me: person.id }))
            navigate('/arrange')
          }}
        />
      ))}
    </ul>
  )
}
