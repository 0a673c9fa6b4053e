import type { Resource } from '@marmot/contract/resources'
import { rulesInWords } from '@marmot/core/reservations'
import { pictureOf } from './place-state.ts'

/** What a place is: its picture, what its steward says of it, its rules in words, and who looks after it. */
export const AboutPlace = ({ resource }: { resource: Resource }) => (
  <>
    {resource.picture && (
      <img
        src={pictureOf(resource.id, resource.picture)}
        alt={resource.name}
        className="max-h-52 w-full rounded-md object-cover"
      />
    )}
    {resource.about && <p>{resource.about}</p>}
    {rulesInWords(resource.rules).map((rule) => (
      <p key={rule} className="text-sm">
        {rule}
      </p>
    ))}
    {resource.steward && (
      <p className="text-soft text-sm">
        {resource.looksAfter ? 'You look after it.' : `${resource.steward} looks after it.`}
      </p>
    )}
  </>
)
