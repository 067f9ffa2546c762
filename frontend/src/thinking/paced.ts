// Does something at once, and while it is wanted again and again no more often than every so many milliseconds: the last
// wish is always done.
export function paced(work: () => void, everyMs: number) {
  let last = -Infinity
  let timer: ReturnType<typeof setTimeout> | null = null
  const now = () => {
    timer = null
    last = performance.now()
    work()
  }
  return {
    want() {
      if (timer !== null) return
      const wait = last + everyMs - performance.now()
      if (wait <= 0) now()
      else timer = setTimeout(now, wait)
    },
    end() {
      if (timer !== null) clearTimeout(timer)
      timer = null
    },
  }
}
