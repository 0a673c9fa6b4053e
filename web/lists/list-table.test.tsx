// @vitest-environment happy-dom
import { cleanup, fireEvent, render, screen, within } from '@testing-library/react'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { type ListColumn, ListTable } from './list-table.tsx'

const taken = vi.fn()
vi.mock('../platform/csv.ts', () => ({ takeAwayCsv: (...args: unknown[]) => taken(...args) }))
afterEach(() => {
  cleanup()
  taken.mockClear()
})

interface Tool {
  readonly name: string
  readonly where: string
  readonly count: number
}
const TOOLS: readonly Tool[] = [
  { name: 'Core drill', where: 'Store', count: 12 },
  { name: 'Aerial', where: 'Loft', count: 3 },
  { name: 'Batteries', where: 'Store', count: 100 },
  { name: 'Étalon', where: '', count: 1 },
]
const columns: ListColumn<Tool>[] = [
  { id: 'name', head: 'Name', value: (one) => one.name },
  { id: 'where', head: 'Where', value: (one) => one.where, group: (one) => one.where },
  { id: 'count', head: 'How many', value: (one) => one.count, cell: (one) => `${one.count} pieces` },
]
const list = (rows = TOOLS) =>
  render(
    <ListTable
      label="Tools"
      one="tool"
      many="tools"
      columns={columns}
      rows={rows}
      keyOf={(one) => one.name}
      sortedBy="name"
      csvName="tools.csv"
      empty={<p>There are no tools.</p>}
    />,
  )
const names = () =>
  within(screen.getByRole('table', { name: 'Tools' }))
    .getAllByRole('row')
    .slice(1)
    .map((row) => row.firstElementChild?.textContent)

describe('a list', () => {
  it('is sorted by its heads, numbers as numbers, both ways', () => {
    list()
    expect(names()).toEqual(['Aerial', 'Batteries', 'Core drill', 'Étalon'])
    fireEvent.click(screen.getByRole('button', { name: 'How many' }))
    const down = names()
    fireEvent.click(screen.getByRole('button', { name: 'How many' }))
    expect(down).toEqual([...names()].reverse())
    expect([down, names()]).toContainEqual(['Étalon', 'Aerial', 'Core drill', 'Batteries'])
    expect(screen.getByRole('columnheader', { name: 'How many' }).getAttribute('aria-sort')).toMatch(/ing$/)
    // It is always in some order: a third press is the first again.
    fireEvent.click(screen.getByRole('button', { name: 'How many' }))
    expect(names()).toEqual(down)
  })

  it('is narrowed by the beginnings of words, without accents, and says so where nothing has them', () => {
    list()
    const find = screen.getByLabelText('Find in the tools')
    fireEvent.change(find, { target: { value: 'eta' } })
    expect(names()).toEqual(['Étalon'])
    expect(screen.getByRole('status').textContent).toBe('1 tool')
    fireEvent.change(find, { target: { value: 'store bat' } })
    expect(names()).toEqual(['Batteries'])
    fireEvent.change(find, { target: { value: 'nothing' } })
    expect(screen.getByText('Nothing in this list has these words.')).toBeTruthy()
  })

  it('stands in groups, each with its number, what says nothing too', () => {
    list()
    fireEvent.change(screen.getByLabelText('In groups'), { target: { value: 'where' } })
    expect(names()).toEqual([
      'Loft (1)',
      'Aerial',
      'Store (2)',
      'Batteries',
      'Core drill',
      'nothing said (1)',
      'Étalon',
    ])
  })

  it('is taken away as it stands', () => {
    list()
    fireEvent.change(screen.getByLabelText('Find in the tools'), { target: { value: 'store' } })
    fireEvent.click(screen.getByRole('button', { name: 'Export as CSV' }))
    expect(taken).toHaveBeenCalledWith(
      'tools.csv',
      ['Name', 'Where', 'How many'],
      [
        ['Batteries', 'Store', '100'],
        ['Core drill', 'Store', '12'],
      ],
    )
  })

  it('says what there is to say of none', () => {
    list([])
    expect(screen.getByText('There are no tools.')).toBeTruthy()
    expect(screen.queryByRole('button', { name: 'Export as CSV' })).toBeNull()
  })

  it('is sorted downwards at first where that is asked for, and found by what is not shown, which goes out all the same', () => {
    const more: ListColumn<Tool>[] = [
      ...columns,
      { id: 'key', head: 'Key', value: (one) => `key ${one.count}`, unseen: true },
    ]
    render(
      <ListTable
        label="Tools"
        one="tool"
        many="tools"
        columns={more}
        rows={TOOLS}
        keyOf={(one) => one.name}
        sortedBy="count"
        lastFirst
        csvName="tools.csv"
        empty={null}
      />,
    )
    expect(names()).toEqual(['Batteries', 'Core drill', 'Aerial', 'Étalon'])
    expect(screen.queryByRole('columnheader', { name: 'Key' })).toBeNull()
    fireEvent.change(screen.getByLabelText('Find in the tools'), { target: { value: 'key 12' } })
    expect(names()).toEqual(['Core drill'])
    fireEvent.click(screen.getByRole('button', { name: 'Export as CSV' }))
    expect(taken).toHaveBeenCalledWith(
      'tools.csv',
      ['Name', 'Where', 'How many', 'Key'],
      [['Core drill', 'Store', '12', 'key 12']],
    )
  })
})
