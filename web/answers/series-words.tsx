/** That a meeting repeats, how, and which dates differ: said wherever one answers or cancels it. */
export const SeriesWords = ({ series: [rule, ...dates] }: { series: readonly string[] }) =>
  rule === undefined ? null : (
    <p>
      <b className="font-semibold">Repeats</b>{' '}
      {[rule.charAt(0).toLowerCase() + rule.slice(1), ...dates].join('; ')}.
    </p>
  )
