// The day theme and the night theme. The choice stays with the browser; without one, its own taste counts.
export type Theme = 'fog' | 'deep'

const KEPT_AS = 'paleharbor.theme'

export function chosenTheme(): Theme {
  const kept = localStorage.getItem(KEPT_AS)
  if (kept === 'fog' || kept === 'deep') return kept
  return matchMedia('(prefers-color-scheme: dark)').matches ? 'deep' : 'fog'
}

export function applyTheme(theme: Theme) {
  document.documentElement.dataset.theme = theme
}

export function turnTheme(): Theme {
  const theme: Theme = document.documentElement.dataset.theme === 'fog' ? 'deep' : 'fog'
  localStorage.setItem(KEPT_AS, theme)
  applyTheme(theme)
  return theme
}
