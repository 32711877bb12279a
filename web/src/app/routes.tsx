import { lazy, Suspense, type ComponentType, type LazyExoticComponent } from 'react'
import { createBrowserRouter, type RouteObject } from 'react-router'

import { Loading } from '../ui/States'
import { GlossaryPage } from './GlossaryPage'
import { NotFoundPage } from './NotFoundPage'
import { Home, Office, Session } from './Shell'
import { Titled } from './Titled'

type Page = LazyExoticComponent<ComponentType>

/** A page whose part of the program is fetched when somebody goes there. */
const from = <K extends string>(module: () => Promise<Record<K, ComponentType>>, name: K): Page =>
  lazy(() => module().then((one) => ({ default: one[name] })))

/** What names itself once it knows what it shows. */
const named = (path: string, Shown: Page): RouteObject => ({
  path,
  element: (
    <Suspense fallback={<Loading what="the page" />}>
      <Shown />
    </Suspense>
  ),
})

const titled = (path: string, as: string, Shown: Page): RouteObject => ({
  path,
  element: (
    <Suspense fallback={<Loading what="the page" />}>
      <Titled as={as}>
        <Shown />
      </Titled>
    </Suspense>
  ),
})

/** All of a visit in one piece: whoever has its list open can go on without a signal. */
const visits = () => import('../features/visits/pages')

const OFFICE: RouteObject[] = [
  titled(
    '/outlook',
    'Outlook',
    from(() => import('../features/outlook/OutlookPage'), 'OutlookPage'),
  ),
  titled(
    '/rounds',
    'Rounds',
    from(() => import('../features/rounds/RoundsPage'), 'RoundsPage'),
  ),
  titled(
    '/rounds/customers',
    'Customers',
    from(() => import('../features/rounds/CustomersPage'), 'CustomersPage'),
  ),
  titled(
    '/rounds/stock',
    'Trucks and stock',
    from(() => import('../features/rounds/StockPage'), 'StockPage'),
  ),
  titled(
    '/rounds/money',
    'Money',
    from(() => import('../features/money/MoneyPage'), 'MoneyPage'),
  ),
  titled(
    '/review',
    'Review: forecasts',
    from(() => import('../features/review/ReviewPage'), 'ReviewPage'),
  ),
  titled(
    '/review/practices',
    'Review: practices',
    from(() => import('../features/review/PracticesPage'), 'PracticesPage'),
  ),
  titled(
    '/bench',
    'Bench: years in a minute',
    from(() => import('../features/bench/LivesPage'), 'LivesPage'),
  ),
  titled(
    '/bench/calculators',
    'Bench: calculators',
    from(() => import('../features/bench/CalculatorsPage'), 'CalculatorsPage'),
  ),
  titled(
    '/bench/practise',
    'Bench: practise a visit',
    from(() => import('../features/bench/ScenariosPage'), 'ScenariosPage'),
  ),
  titled(
    '/bench/signed-off',
    'Bench: signed off',
    from(() => import('../features/bench/SignedOffPage'), 'SignedOffPage'),
  ),
  titled(
    '/bench/practise/:name',
    'Bench: a practice',
    from(() => import('../features/bench/AtBenchPage'), 'AtBenchPage'),
  ),
  titled(
    '/bench/written',
    'Bench: your own',
    from(() => import('../features/bench/WrittenPage'), 'WrittenPage'),
  ),
  titled(
    '/bench/find',
    'Bench: find what is wrong',
    from(() => import('../features/bench/TroublesPage'), 'TroublesPage'),
  ),
  titled(
    '/bench/find/:name',
    'Bench: a complaint',
    from(() => import('../features/bench/SearchPage'), 'SearchPage'),
  ),
  titled(
    '/review/tanks',
    'Review: tanks',
    from(() => import('../features/review/TanksPage'), 'TanksPage'),
  ),
  titled(
    '/review/ahead',
    'Review: the years ahead',
    from(() => import('../features/review/AheadPage'), 'AheadPage'),
  ),
  titled(
    '/review/months',
    'Review: calls by month',
    from(() => import('../features/review/DemandPage'), 'DemandPage'),
  ),
  titled(
    '/review/work',
    'Review: work by year',
    from(() => import('../features/review/WorkPage'), 'WorkPage'),
  ),
  titled(
    '/review/hours',
    'Review: how long visits take',
    from(() => import('../features/review/HoursPage'), 'HoursPage'),
  ),
  titled(
    '/review/steps',
    'Review: steps',
    from(() => import('../features/review/StepsPage'), 'StepsPage'),
  ),
  titled(
    '/questions',
    'Questions from visits',
    from(() => import('../features/visits/QuestionsPage'), 'QuestionsPage'),
  ),
  titled(
    '/rounds/season',
    'Season',
    from(() => import('../features/rounds/SeasonPage'), 'SeasonPage'),
  ),
  titled(
    '/register',
    'Register',
    from(() => import('../features/heaters/RegisterPage'), 'RegisterPage'),
  ),
  titled(
    '/register/open-ends',
    'Open issues',
    from(() => import('../features/openEnds/OpenEndsPage'), 'OpenEndsPage'),
  ),
  titled(
    '/register/gaps',
    'Missing details',
    from(() => import('../features/gaps/GapsPage'), 'GapsPage'),
  ),
  titled(
    '/register/duplicates',
    'Possible duplicates',
    from(() => import('../features/heaters/DuplicatesPage'), 'DuplicatesPage'),
  ),
  titled(
    '/register/files',
    'Import and export',
    from(() => import('../features/imports/FilesPage'), 'FilesPage'),
  ),
  titled(
    '/water',
    'Water',
    from(() => import('../features/water/WaterPage'), 'WaterPage'),
  ),
  titled(
    '/settings',
    'Settings',
    from(() => import('../features/settings/CompanyPage'), 'CompanyPage'),
  ),
  titled(
    '/settings/practice',
    'Settings: practice',
    from(() => import('../features/settings/PracticePage'), 'PracticePage'),
  ),
  titled(
    '/settings/people',
    'Settings: people',
    from(() => import('../features/settings/PeoplePage'), 'PeoplePage'),
  ),
  titled(
    '/settings/crew',
    'Settings: crew',
    from(() => import('../features/settings/CrewPage'), 'CrewPage'),
  ),
  titled(
    '/settings/messages',
    'Settings: messages',
    from(() => import('../features/settings/MessagesPage'), 'MessagesPage'),
  ),
  titled(
    '/settings/programs',
    'Settings: other programs',
    from(() => import('../features/settings/ProgramsPage'), 'ProgramsPage'),
  ),
  titled(
    '/settings/programs/interface',
    'Settings: the interface',
    from(() => import('../features/settings/InterfacePage'), 'InterfacePage'),
  ),
  titled(
    '/settings/jobs',
    'Settings: jobs',
    from(() => import('../features/settings/JobsPage'), 'JobsPage'),
  ),
  titled(
    '/settings/record',
    'Settings: who changed what',
    from(() => import('../features/settings/RecordPage'), 'RecordPage'),
  ),
  titled(
    '/account',
    'Your account',
    from(() => import('../features/settings/AccountPage'), 'AccountPage'),
  ),
  {
    path: '/glossary',
    element: (
      <Titled as="Glossary">
        <GlossaryPage />
      </Titled>
    ),
  },
  named(
    '/sites/:siteId',
    from(() => import('../features/places/SitePage'), 'SitePage'),
  ),
  named(
    '/sites/:siteId/call',
    from(() => import('../features/calls/CallPage'), 'CallPage'),
  ),
  named(
    '/water/:zoneId',
    from(() => import('../features/water/ZonePage'), 'ZonePage'),
  ),
  named(
    '/heaters/:heaterId',
    from(() => import('../features/heaters/HeaterPage'), 'HeaterPage'),
  ),
  {
    path: '*',
    element: (
      <Titled as="Not found">
        <NotFoundPage />
      </Titled>
    ),
  },
]

export const router = createBrowserRouter([
  {
    element: <Session />,
    children: [
      { element: <Office />, children: [{ index: true, element: <Home /> }, ...OFFICE] },
      titled(
        '/t/*',
        'Label',
        from(() => import('../features/heaters/TagPage'), 'TagPage'),
      ),
      named('/visit', from(visits, 'VisitListPage')),
      named('/visit/:heaterId', from(visits, 'GuidePage')),
      named('/visit/:heaterId/close', from(visits, 'ClosePage')),
      named('/visit/:heaterId/amend/:visitId', from(visits, 'AmendPage')),
    ],
  },
])

// A part that is not there any more belongs to an older version of the program: the page it is for is fetched anew.
window.addEventListener('vite:preloadError', (event) => {
  event.preventDefault()
  window.location.reload()
})
