// How a field's values are spread.
import type { FieldProfile } from '../../api/records'
import { Histogram } from '../../parts/histogram'
import { distribution } from '../../thinking/profile'

export function Distribution({ field, width, height }: { field: FieldProfile; width: number; height: number }) {
  const { bins, unit } = distribution(field)
  return (
    <Histogram bins={bins} unit={unit} width={width} height={height} what={`${unit || 'values'} of ${field.name}`} />
  )
}
