import { afterEach, expect, it, vi } from 'vitest'

import { chooseTheme, themeChosen, wearTheme } from './theme'

afterEach(() => {
  localStorage.clear()
  document.documentElement.className = ''
  vi.unstubAllGlobals()
})

function device(dark: boolean) {
  const told: (() => void)[] = []
  const media = { matches: dark, addEventListener: (_: string, tell: () => void) => told.push(tell) }
  vi.stubGlobal('matchMedia', () => media)
  return (now: boolean) => {
    media.matches = now
    told.forEach((tell) => tell())
  }
}
const isDark = () => document.documentElement.classList.contains('dark')

it('is light until somebody chooses otherwise, and stays as chosen', () => {
  device(true)
  wearTheme()
  expect([themeChosen(), isDark()]).toEqual(['light', false])
  chooseTheme('dark')
  expect([themeChosen(), isDark()]).toEqual(['dark', true])
  chooseTheme('light')
  expect(isDark()).toBe(false)
})

it('goes with the device where that was chosen', () => {
  const turns = device(false)
  wearTheme()
  chooseTheme('device')
  expect(isDark()).toBe(false)
  turns(true)
  expect(isDark()).toBe(true)
  chooseTheme('light')
  turns(true)
  expect(isDark()).toBe(false)
})

it('takes what it does not know for light', () => {
  device(false)
  localStorage.setItem('theme', 'purple')
  expect(themeChosen()).toBe('light')
})
