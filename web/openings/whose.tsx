import { useState } from 'react'
import { useMe } from '../platform/session.tsx'
import { useSharing } from '../sharing/sharing.ts'
import { Field } from '../ui/parts.tsx'

/** Whose meeting it is: mine, or that of somebody for whom I act. `of` is empty for mine; `whose` is the field, where there is a choice. */
export const useWhose = () => {
  const { person } = useMe()
  const [of, setOf] = useState('')
  const sharing = useSharing()
  const directors = (sharing.data?.toMe ?? []).filter((each) => each.does === 'stand-in')
  const whose = directors.length > 0 && (
    <Field label="Whose meeting it is">
      {(props) => (
        <select {...props} value={of} onChange={(event) => setOf(event.target.value)}>
          <option value="">Mine</option>
          {directors.map((each) => (
            <option key={each.ownerId} value={each.ownerId}>
              {each.owner}’s: it is sent as “{person.name} for {each.owner}”
            </option>
          ))}
        </select>
      )}
    </Field>
  )
  return { of, whose }
}
