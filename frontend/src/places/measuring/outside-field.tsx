// A named field of the forms that say how an outside ranker is asked.
import type { ReactNode } from 'react'

export const INPUT = 'input input-sm w-full border-base-300 bg-transparent'

export function Field({ name, children }: { name: string; children: ReactNode }) {
  return (
    <label className="block pb-2">
      <span className="quiet small block">{name}</span>
      {children}
    </label>
  )
}
