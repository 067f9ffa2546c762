// Grades as tide marks: a ladder of three rungs, filled from below; hollow for 0, dotted for unjudged.
const MEANINGS = ['off topic', 'related', 'useful', 'exactly it']

export function GradeRungs({ grade }: { grade: number | undefined }) {
  const meaning = grade === undefined ? 'unjudged' : `grade ${grade}, ${MEANINGS[grade] ?? ''}`
  return (
    <svg width="14" height="18" viewBox="0 0 14 18" role="img" aria-label={meaning} className="text-secondary">
      <title>{meaning}</title>
      {[0, 1, 2].map((rung) => (
        <rect
          key={rung}
          x="1"
          y={12.5 - rung * 5.5}
          width="12"
          height="3.6"
          fill={grade !== undefined && rung < grade ? 'currentColor' : 'none'}
          stroke="currentColor"
          strokeWidth="1"
          strokeDasharray={grade === undefined ? '1.2 1.8' : undefined}
          opacity={grade === undefined ? 0.75 : 1}
        />
      ))}
    </svg>
  )
}
