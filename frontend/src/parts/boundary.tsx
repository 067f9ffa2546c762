// Where a part of the page breaks, or its script cannot be fetched, that is said in its place, and the rest stays.
import { Component, type ReactNode } from 'react'
import { ProblemNote } from './notes'

export class Boundary extends Component<{ children: ReactNode }, { error: Error | null }> {
  override state: { error: Error | null } = { error: null }

  static getDerivedStateFromError(error: unknown) {
    return { error: error instanceof Error ? error : new Error(String(error)) }
  }

  override render() {
    if (this.state.error === null) return this.props.children
    return (
      <div className="p-4">
        <ProblemNote error={new Error(`This place cannot be shown: ${this.state.error.message}`)} />
        <button type="button" className="link" onClick={() => window.location.reload()}>
          Load the page again
        </button>
      </div>
    )
  }
}
