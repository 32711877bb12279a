import { useQueries, useQuery, useQueryClient } from '@tanstack/react-query'
import clsx from 'clsx'
import { DropdownMenu } from 'radix-ui'
import { useEffect, useRef, useState } from 'react'
import { Navigate, NavLink, Outlet, useLocation } from 'react-router'

import { ApiError } from '../api/client'
import { device } from '../device/store'
import { apartOptions, questionsOptions } from '../features/visits/queries'
import { tellTimesBy } from '../lib/clock'
import { beginWeeksOn } from '../lib/dates'
import { ROLES } from '../lib/words'
import { Failed, Loading } from '../ui/States'
import { chooseTheme, themeChosen, THEMES, type Theme } from '../ui/theme'
import { Announced } from './Announced'
import { Arrival } from './Arrival'
import { Finder } from './Finder'
import { FocusKept } from './FocusKept'
import { Freshness } from './Freshness'
import { showKeys, Shortcuts } from './Shortcuts'
import { TakeBack } from './TakeBack'
import { companyOptions, meOptions, useCompany, useMay, useMe } from '../session/session'

/** Waits for who is signed in and how the company measures, which every screen needs. */
export function Session() {
  const queries = useQueryClient()
  // Who is signed in is always asked: what the device keeps may be of whoever was here before.
  const found = useQueries({ queries: [{ ...meOptions, refetchOnMount: 'always' as const }, companyOptions] })
  const id = found[0].data?.id
  const before = useRef(id)
  useEffect(() => {
    if (before.current !== undefined && id !== undefined && before.current !== id)
      queries.removeQueries({ predicate: (one) => one.queryKey[0] !== 'me' })
    before.current = id
  }, [id, queries])
  const failed = found.find((one) => one.error && (!one.data || isSignedOut(one.error)))?.error
  if (isSignedOut(failed)) {
    window.location.assign(`/sign-in?next=${encodeURIComponent(location.pathname + location.search)}`)
    return null
  }
  if (failed) return <Failed error={failed} onRetry={() => window.location.reload()} />
  if (found.some((one) => one.isPending)) return <Loading what="the company's settings" />
  tellTimesBy(found[1].data!.clock)
  beginWeeksOn(found[1].data!.week_start)
  return (
    <>
      <Outlet />
      <Arrival />
      <FocusKept />
      <Announced />
    </>
  )
}

const isSignedOut = (error: unknown) => error instanceof ApiError && error.status === 401

export function Office() {
  const records = useMay('record_visit')
  return (
    <div className="flex h-dvh flex-col narrow:h-auto narrow:min-h-dvh">
      <a href="#main" className="sr-only focus:not-sr-only focus:absolute focus:z-50 focus:bg-sheet focus:p-3">
        To the main part
      </a>
      <header
        className={clsx(
          'flex h-[46px] shrink-0 items-center gap-6 border-b border-line px-5 narrow:h-auto',
          'narrow:flex-wrap narrow:gap-x-3 narrow:gap-y-1 narrow:px-3 narrow:pt-1',
        )}
      >
        <Mark />
        <nav
          aria-label="Places"
          className={clsx(
            'flex h-full items-stretch gap-1',
            'narrow:order-last narrow:h-auto narrow:min-h-11 narrow:w-full narrow:flex-wrap',
            'narrow:justify-between narrow:gap-0',
          )}
        >
          <Place to="/register" also={['/sites', '/heaters', '/water']}>
            Register
          </Place>
          <Place to="/outlook">Outlook</Place>
          <Place to="/rounds">Rounds</Place>
          <Place to="/review">Review</Place>
          <Place to="/bench">Bench</Place>
          {records && <Place to="/visit">Visit</Place>}
        </nav>
        <div className="flex-1" />
        <Freshness />
        <Asked />
        <Finder />
        <Person />
      </header>
      <main id="main" className="relative min-h-0 flex-1 overflow-y-auto narrow:overflow-visible">
        <Outlet />
      </main>
      <TakeBack />
      <Shortcuts />
    </div>
  )
}

const SMALL = '(max-width: 720px)'

/** Where the day begins: on a phone with one's own round, in the office with what is due. */
export function Home() {
  const records = useMay('record_visit')
  const small = typeof window.matchMedia === 'function' && window.matchMedia(SMALL).matches
  return <Navigate to={records && small ? '/visit' : '/outlook'} replace />
}

/** The lead is told, wherever they are, that a technician waits for an answer. */
function Asked() {
  const leads = useMay('override')
  const open = useQuery({ ...questionsOptions, enabled: leads }).data?.filter((one) => one.go_on === null).length ?? 0
  const apart = useQuery({ ...apartOptions, enabled: leads }).data?.length ?? 0
  if (open + apart === 0) return null
  return (
    <NavLink to="/questions" className="rounded-md bg-copper px-3 py-1 font-semibold text-white">
      {open === 0 && (apart === 1 ? 'One tap' : `${apart} taps`)}
      {open > 0 && (open === 1 ? 'One question' : `${open} questions`)} from a visit{open === 0 && ', not understood'}
    </NavLink>
  )
}

export function Mark() {
  return (
    <span className="flex items-center gap-2.5 text-lead font-bold">
      <svg width="22" height="18" viewBox="0 0 22 18" aria-hidden>
        {['text-copper', 'text-water', 'text-ink'].map((colour, layer) => (
          <path
            key={colour}
            className={colour}
            d={`M1 ${3 + 6 * layer}q5-4 10 0t10 0`}
            fill="none"
            stroke="currentColor"
            strokeWidth="2.2"
            strokeLinecap="round"
          />
        ))}
      </svg>
      Aquifer
    </span>
  )
}

/** `also`: what lies inside the place under other addresses. */
function Place({ to, also = [], children }: { to: string; also?: string[]; children: string }) {
  const { pathname } = useLocation()
  const inside = also.some((one) => pathname.startsWith(one))
  return (
    <NavLink
      to={to}
      {...(inside && { 'aria-current': 'true' as const })}
      className={({ isActive }) =>
        clsx(
          'flex items-center border-b-[3px] px-3 pt-[3px] narrow:min-h-11 narrow:px-1.5',
          isActive || inside ? 'border-copper font-bold text-ink' : 'border-transparent text-soft hover:text-ink',
        )
      }
    >
      {children}
    </NavLink>
  )
}

export function Person() {
  const me = useMe()
  const company = useCompany()
  const [theme, setTheme] = useState(themeChosen)
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className="px-1 py-2 text-soft hover:text-ink">{ROLES[me.role]}</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={4}
          className="z-50 min-w-56 rounded-md border border-line bg-sheet p-1 shadow-lg"
        >
          <DropdownMenu.Label className="px-3 py-2">
            <span className="block font-bold">{me.name}</span>
            <span className="text-soft">{company.name}</span>
          </DropdownMenu.Label>
          {['lead', 'planner'].includes(me.role) && (
            <DropdownMenu.Item asChild>
              <NavLink to="/settings" className="block rounded px-3 py-2 data-[highlighted]:bg-ground">
                Settings
              </NavLink>
            </DropdownMenu.Item>
          )}
          <DropdownMenu.Item asChild>
            <NavLink to="/account" className="block rounded px-3 py-2 data-[highlighted]:bg-ground">
              Your password
            </NavLink>
          </DropdownMenu.Item>
          {me.role === 'lead' && (
            <DropdownMenu.Item asChild>
              <a href="/admin/" className="block rounded px-3 py-2 data-[highlighted]:bg-ground">
                All records
              </a>
            </DropdownMenu.Item>
          )}
          <DropdownMenu.Item asChild>
            <NavLink to="/glossary" className="block rounded px-3 py-2 data-[highlighted]:bg-ground">
              Glossary
            </NavLink>
          </DropdownMenu.Item>
          <DropdownMenu.Item
            className="cursor-pointer rounded px-3 py-2 data-[highlighted]:bg-ground"
            onSelect={showKeys}
          >
            Keys
          </DropdownMenu.Item>
          <DropdownMenu.Separator className="my-1 border-t border-line" />
          <DropdownMenu.RadioGroup
            aria-label="How pages look here"
            value={theme}
            onValueChange={(chosen) => {
              chooseTheme(chosen as Theme)
              setTheme(chosen as Theme)
            }}
          >
            {Object.entries(THEMES).map(([value, words]) => (
              <DropdownMenu.RadioItem
                key={value}
                value={value}
                className="flex cursor-pointer gap-2 rounded px-3 py-1.5 data-[highlighted]:bg-ground"
              >
                <span className="w-4">
                  <DropdownMenu.ItemIndicator>●</DropdownMenu.ItemIndicator>
                </span>
                {words}
              </DropdownMenu.RadioItem>
            ))}
          </DropdownMenu.RadioGroup>
          <DropdownMenu.Separator className="my-1 border-t border-line" />
          <DropdownMenu.Item
            className="cursor-pointer rounded px-3 py-2 data-[highlighted]:bg-ground"
            onSelect={() => void signOut()}
          >
            Sign out
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}

/** Django's own view ends the session; it takes a form. What was read leaves the device, what is not sent stays. */
async function signOut() {
  await device.kept.clear()
  const token = /(?:^|; )csrftoken=([^;]*)/.exec(document.cookie)?.[1] ?? ''
  const form = Object.assign(document.createElement('form'), { method: 'post', action: '/sign-out' })
  form.append(
    Object.assign(document.createElement('input'), { type: 'hidden', name: 'csrfmiddlewaretoken', value: token }),
  )
  document.body.append(form)
  form.submit()
}
