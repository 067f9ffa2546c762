// What differs between two states of a record, and when that was.
export function changedFields(before: Record<string, unknown>, after: Record<string, unknown>): string[] {
  const names = [...new Set([...Object.keys(before), ...Object.keys(after)])]
  return names.filter((name) => JSON.stringify(before[name]) !== JSON.stringify(after[name]))
}

// A moment as the reader's clock shows it, to the minute.
export function whenText(iso: string): string {
  const moment = new Date(iso)
  if (Number.isNaN(moment.getTime())) return iso
  const two = (part: number) => String(part).padStart(2, '0')
  const day = `${moment.getFullYear()}-${two(moment.getMonth() + 1)}-${two(moment.getDate())}`
  return `${day} ${two(moment.getHours())}:${two(moment.getMinutes())}`
}
