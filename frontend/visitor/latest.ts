// Questions that are asked one after the other, of which only the answer to the latest is of use: what was asked before is
// called off, and where its answer comes all the same it is not heard. So a slow answer never takes the place of a newer
// one, however they arrive.

export class Latest {
  private current: AbortController | null = null

  // null where something newer was asked meanwhile.
  async ask<T>(question: (signal: AbortSignal) => Promise<T>): Promise<T | null> {
    this.callOff()
    const own = new AbortController()
    this.current = own
    try {
      const answer = await question(own.signal)
      return this.current === own ? answer : null
    } catch (error) {
      if (this.current !== own) return null
      throw error
    } finally {
      if (this.current === own) this.current = null
    }
  }

  callOff(): void {
    this.current?.abort()
    this.current = null
  }
}
