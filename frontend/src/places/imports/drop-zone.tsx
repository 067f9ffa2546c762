// A file is dropped here, or chosen.
import { useRef, useState } from 'react'

export function DropZone(props: {
  sent: { name: string; share: number } | null
  busy: boolean
  onFile: (file: File) => void
}) {
  const [over, setOver] = useState(false)
  const input = useRef<HTMLInputElement>(null)
  const { sent, busy } = props
  return (
    <div
      data-testid="drop"
      className={`m-4 grid h-[150px] place-items-center border border-dashed ${over ? 'border-primary bg-base-200' : 'border-base-content/40'}`}
      onDragOver={(event) => {
        event.preventDefault()
        setOver(true)
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(event) => {
        event.preventDefault()
        setOver(false)
        const file = event.dataTransfer.files[0]
        if (file && !sent) props.onFile(file)
      }}
    >
      {sent ? (
        <div className="w-[360px]" role="status">
          <p>
            {sent.share < 1 ? 'Sending' : 'Looking at'} <b className="font-semibold">{sent.name}</b>
          </p>
          <div className="mt-1 h-[7px] bg-base-300">
            <div className="fills h-full bg-secondary" style={{ width: `${sent.share * 100}%` }} />
          </div>
        </div>
      ) : busy ? (
        <p role="status" className="quiet">
          Looking at the first rows …
        </p>
      ) : (
        <div className="text-center">
          <p className="text-[16px]">
            Drop a file here, or{' '}
            <button type="button" className="link font-semibold" onClick={() => input.current?.click()}>
              choose one
            </button>
          </p>
          <p className="quiet small pt-1">
            CSV, TSV or other delimited text, JSON, JSON Lines, Parquet, PDF, text or Markdown, scanned pages (ALTO,
            hOCR, PDF), or a zip of these; gzipped or not.
            <br />
            Nothing is stored before you have seen how it is read.
          </p>
        </div>
      )}
      <input
        ref={input}
        type="file"
        aria-label="File to import"
        className="hidden"
        onChange={(event) => {
          const file = event.target.files?.[0]
          event.target.value = ''
          if (file) props.onFile(file)
        }}
      />
    </div>
  )
}
