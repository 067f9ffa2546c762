// A box for a record's key that finds it by its title as well.
import { useQuery } from '@tanstack/react-query'
import { useCombobox } from 'downshift'
import { useState } from 'react'
import { recordsCalled, type CalledRecord } from '../api/records'
import { usePaused } from './use-paused'

const PAUSE_MS = 150
// Of what is looked up; nobody types more to find a record.
const LONGEST = 200

export function RecordBox(props: {
  collection: string
  label: string
  placeholder?: string
  value: string
  // As it is typed.
  onType: (typed: string) => void
  // One of those offered was taken.
  onChoose: (key: string) => void
  className?: string
  autoFocus?: boolean
  required?: boolean
}) {
  const { value } = props
  const [typed, setTyped] = useState(false)
  const words = usePaused(value.trim().slice(0, LONGEST), PAUSE_MS)
  const found = useQuery({ ...recordsCalled(props.collection, words), enabled: typed && words !== '' })
  const items = typed && words === value.trim().slice(0, LONGEST) ? (found.data ?? []) : []
  const box = useCombobox<CalledRecord>({
    items,
    inputValue: value,
    itemToString: (item) => item?.key ?? '',
    onSelectedItemChange: ({ selectedItem }) => {
      if (!selectedItem) return
      setTyped(false)
      props.onType(selectedItem.key)
      props.onChoose(selectedItem.key)
    },
    selectedItem: null,
  })
  const shown = box.isOpen && items.length > 0
  return (
    <span className="relative min-w-0 flex-1">
      <input
        {...box.getInputProps({
          onChange: (event) => {
            setTyped(true)
            props.onType(event.currentTarget.value)
          },
          onKeyDown: (event) => {
            // Nothing offered is meant: Enter is the form's.
            if (event.key === 'Enter' && box.highlightedIndex < 0)
              Object.assign(event.nativeEvent, { preventDownshiftDefault: true })
          },
        })}
        autoFocus={props.autoFocus}
        required={props.required}
        aria-label={props.label}
        placeholder={props.placeholder ?? 'key or title of a record'}
        maxLength={500}
        spellCheck={false}
        dir="auto"
        className={props.className ?? 'input input-sm w-full border-base-300 bg-transparent text-[13px]'}
      />
      <ul
        {...box.getMenuProps({ 'aria-label': 'Records that are called so' })}
        className={`absolute top-full left-0 z-20 mt-1 max-h-[260px] w-[320px] max-w-[80vw] overflow-y-auto border border-base-300 bg-base-100 py-1 shadow-md ${shown ? '' : 'hidden'}`}
      >
        {shown &&
          items.map((item, index) => (
            <li
              key={item.key}
              {...box.getItemProps({ item, index })}
              className={`cursor-pointer border-l-2 px-2 py-px ${box.highlightedIndex === index ? 'border-primary bg-base-200' : 'border-transparent'}`}
            >
              <span dir="auto" className="block truncate">
                {item.title}
              </span>
              <span className="quiet small font-mono">{item.key}</span>
            </li>
          ))}
      </ul>
    </span>
  )
}
