// RFC 4180. A cell that a spreadsheet would take for a formula is told to be text; a number with its sign is none.
const FORMULA = /^[=+\-@\t\r]/
const NUMBER = /^[+-]?\d[\d.,]*$/

export function csv(rows: readonly (readonly (string | number)[])[]): string {
  return rows.map((row) => row.map(cell).join(',')).join('\r\n') + '\r\n'
}

function cell(value: string | number): string {
  const text = typeof value === 'string' && FORMULA.test(value) && !NUMBER.test(value) ? `'${value}` : String(value)
  return /[",\n\r]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text
}

// The text of a cell of the page: on one line, a number with a minus that programs know.
export function asShown(text: string): string {
  const line = text.replaceAll(/\s+/g, ' ').trim()
  return line.replace(/^\u2212(?=\d)/, '-')
}
