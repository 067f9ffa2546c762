// The rules that figures are made by: stated always, switched here.
import { useAddress } from '../../shell/address'
import { CHOICES, howParam, parsedHow, type Rules } from '../../thinking/how'
import { entriesOf } from '../../thinking/entries'
import { Select } from '../../parts/select'

const NAMES = { ties: 'Ties', unjudged: 'Unjudged records', without_relevant: 'Queries without a relevant record' }

export function RulesBar() {
  const { params, change } = useAddress()
  const how = parsedHow(params.get('rules'))
  const turn = (changes: Partial<Rules>) => change({ rules: howParam({ ...how, ...changes }) })
  return (
    <div className="small flex flex-1 flex-wrap items-center justify-end gap-x-2 pr-2 max-[899px]:basis-full max-[899px]:justify-start max-[899px]:px-3">
      {entriesOf(CHOICES).map(([name, choices]) => (
        <Select
          key={name}
          label={NAMES[name]}
          className={`[field-sizing:content] max-w-[150px] truncate bg-transparent ${how[name] === Object.keys(choices)[0] ? 'quiet' : 'font-semibold'}`}
          value={how[name]}
          choices={Object.entries(choices)}
          onChoose={(chosen) => turn({ [name]: chosen })}
        />
      ))}
      <label className={`flex items-center gap-1 whitespace-nowrap ${how.weighted ? 'font-semibold' : 'quiet'}`}>
        <input type="checkbox" checked={how.weighted} onChange={(event) => turn({ weighted: event.target.checked })} />{' '}
        by how often asked
      </label>
    </div>
  )
}
