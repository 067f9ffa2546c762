// The chain doctor: what is likely wrong, the evidence, and one key to mend it.
import type { Finding } from '../../api/chains'

export type Mending = Pick<NonNullable<Finding['mend']>, 'record_chain' | 'query_chain'>

export function Doctor({ findings, onMend }: { findings: Finding[]; onMend: (mend: Mending) => void }) {
  const first = findings.find((finding) => finding.mend)
  return (
    <section aria-label="Chain doctor" className="line-b px-4 py-3">
      <h2 className="heading quiet pb-1">Chain doctor</h2>
      {findings.length === 0 && <p>Nothing is wrong that the doctor knows of.</p>}
      <ul>
        {findings.map((finding) => (
          <li key={finding.name + finding.sentence} className="border-l-[3px] border-secondary mb-2.5 pl-2.5">
            <p className="font-semibold leading-[19px]">{finding.sentence}</p>
            {finding.evidence.map((line) => (
              <p key={line} className="small wrap-anywhere">
                {line}
              </p>
            ))}
            {finding.mend && (
              <button
                type="button"
                className="link small text-left font-semibold"
                title={finding === first ? 'Key: m' : undefined}
                onClick={() => finding.mend && onMend(finding.mend)}
              >
                {finding.mend.label}
                {finding === first && (
                  <kbd className="quiet ml-1.5 inline-block border border-base-300 px-1 font-mono text-[11px] font-normal">
                    m
                  </kbd>
                )}
              </button>
            )}
            {finding.mend && <p className="small quiet wrap-anywhere">{finding.mend.would}</p>}
          </li>
        ))}
      </ul>
    </section>
  )
}
