import { Link, type LinkProps } from 'react-router'

/** One of a few views of the same, each with an address of its own. */
export const LinkSwitch = ({
  label,
  views,
}: {
  label: string
  views: readonly { readonly to: LinkProps['to']; readonly name: string; readonly here: boolean }[]
}) => (
  <nav aria-label={label} className="flex">
    {views.map(({ to, name, here }) => (
      <Link
        key={name}
        to={to}
        aria-current={here ? 'page' : undefined}
        className="flex min-h-8 items-center border border-soft/50 border-l-0 bg-paper px-2.5 first:rounded-l-md first:border-l last:rounded-r-md aria-[current]:bg-ink aria-[current]:text-ground max-md:min-h-thumb"
      >
        {name}
      </Link>
    ))}
  </nav>
)
