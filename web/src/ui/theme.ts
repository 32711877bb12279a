/** How pages look on this device: as they were drawn, on a dark ground, or as the device itself is set. */
export type Theme = 'light' | 'dark' | 'device'

export const THEMES: Record<Theme, string> = { light: 'Light', dark: 'Dark', device: 'As the device' }

const KEY = 'theme'
const wished = () => window.matchMedia('(prefers-color-scheme: dark)')

export function themeChosen(): Theme {
  const kept = localStorage.getItem(KEY)
  return kept === 'dark' || kept === 'device' ? kept : 'light'
}

/** Pages look so from now on, on this device. */
export function chooseTheme(theme: Theme): void {
  localStorage.setItem(KEY, theme)
  wear()
}

/** Dress the page as was chosen, and again when the device changes. */
export function wearTheme(): void {
  wished().addEventListener('change', wear)
  wear()
}

function wear(): void {
  const theme = themeChosen()
  const isDark = theme === 'dark' || (theme === 'device' && wished().matches)
  document.documentElement.classList.toggle('dark', isDark)
  const ground = getComputedStyle(document.documentElement).getPropertyValue('--color-ground').trim()
  if (ground) document.querySelector('meta[name="theme-color"]')?.setAttribute('content', ground)
}
