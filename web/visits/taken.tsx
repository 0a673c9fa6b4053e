import { spanInWords, type ZoneTable } from '@marmot/core/time'

/** A time that was taken, or moved to. */
export interface Taken {
  readonly start: string
  readonly end: string
  readonly own: string
  readonly moved: boolean
  readonly address?: string
  readonly host?: string
  readonly where?: string
  readonly words?: string
  readonly goOn?: string
  /** True where it is only kept, until the link in a letter is pressed. */
  readonly proof?: boolean
}

/** It is theirs: when, where, with whom, and what comes next. */
export const TakenWords = ({ taken, zone, now }: { taken: Taken; zone: ZoneTable; now: number }) => (
  <div className="flex flex-col gap-3">
    <div role="status">
      <h1 className="font-bold text-2xl">
        {taken.proof ? 'Look into your mail' : taken.moved ? 'It is moved' : 'The time is yours'}
      </h1>
    </div>
    <div className="rounded-lg border-gentian border-l-4 bg-paper px-4 py-3">
      <p className="font-semibold text-lg">
        {spanInWords(Date.parse(taken.start), Date.parse(taken.end), zone, now)}
      </p>
      {taken.host && <p className="text-soft">with {taken.host}</p>}
      {taken.where && <p className="text-soft">{taken.where}</p>}
    </div>
    <p>
      {taken.proof
        ? `The time is kept for you for half an hour. It is yours once you have pressed the link in the letter to ${taken.address}.`
        : taken.moved
          ? 'A letter with the new time is on its way, and the other side is told.'
          : `The invitation is on its way to ${taken.address}, with a part that your calendar reads.`}
    </p>
    {taken.words && <p className="whitespace-pre-wrap">{taken.words}</p>}
    <p className="flex flex-wrap gap-x-4 gap-y-2">
      {taken.goOn && (
        <a className="text-gentian underline" href={taken.goOn} rel="noreferrer">
          Go on from here
        </a>
      )}
      {!taken.proof && (
        <a className="text-gentian underline" href={`/i/${taken.own}`}>
          See it, move it or cancel it
        </a>
      )}
    </p>
  </div>
)
