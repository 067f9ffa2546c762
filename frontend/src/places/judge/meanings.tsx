// What the grades mean, in the set's own words, always in view.
import { GradeRungs } from '../../parts/grade-rungs'
import { GRADE_NAMES } from '../../thinking/judging'

export function Meanings({ meanings }: { meanings: string[] }) {
  return (
    <section>
      <h2 className="heading quiet pb-2">What the grades mean</h2>
      <dl>
        {[3, 2, 1, 0].map((grade) => (
          <div key={grade} className="grid grid-cols-[20px_minmax(0,1fr)] gap-2 pb-3">
            <dt className="pt-[2px]">
              <GradeRungs grade={grade} />
            </dt>
            <dd>
              <b className="font-semibold">
                {grade} {GRADE_NAMES[grade]}
              </b>
              {meanings[grade] && <span className="small block wrap-anywhere">{meanings[grade]}</span>}
            </dd>
          </div>
        ))}
      </dl>
      <p className="small quiet">
        <kbd>x</kbd> to pass when you cannot say: that is an answer too.
      </p>
    </section>
  )
}
