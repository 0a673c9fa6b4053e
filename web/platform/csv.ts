/** A cell of a CSV file (RFC 4180); what a spreadsheet would run is made plain text. */
const csvCell = (text: string): string => `"${text.replace(/"/g, '""').replace(/^([=+\-@\t\r])/, "'$1")}"`

/** Lets the reader take a table away as a CSV file. */
export const takeAwayCsv = (
  name: string,
  head: readonly string[],
  rows: readonly (readonly string[])[],
): void => {
  const lines = [head, ...rows].map((row) => row.map(csvCell).join(','))
  const link = document.createElement('a')
  link.href = URL.createObjectURL(new Blob([`${lines.join('\r\n')}\r\n`], { type: 'text/csv' }))
  link.download = name
  link.click()
  URL.revokeObjectURL(link.href)
}
