import { createBrowserRouter } from 'react-router'

import { AtBenchPage } from '../features/bench/AtBenchPage'
import { CalculatorsPage } from '../features/bench/CalculatorsPage'
import { LivesPage } from '../features/bench/LivesPage'
import { ScenariosPage } from '../features/bench/ScenariosPage'
import { SignedOffPage } from '../features/bench/SignedOffPage'
import { CallPage } from '../features/calls/CallPage'
import { GapsPage } from '../features/gaps/GapsPage'
import { DuplicatesPage } from '../features/heaters/DuplicatesPage'
import { HeaterPage } from '../features/heaters/HeaterPage'
import { RegisterPage } from '../features/heaters/RegisterPage'
import { TagPage } from '../features/heaters/TagPage'
import { FilesPage } from '../features/imports/FilesPage'
import { MoneyPage } from '../features/money/MoneyPage'
import { OpenEndsPage } from '../features/openEnds/OpenEndsPage'
import { OutlookPage } from '../features/outlook/OutlookPage'
import { AheadPage } from '../features/review/AheadPage'
import { PracticesPage } from '../features/review/PracticesPage'
import { ReviewPage } from '../features/review/ReviewPage'
import { StepsPage } from '../features/review/StepsPage'
import { WorkPage } from '../features/review/WorkPage'
import { TanksPage } from '../features/review/TanksPage'
import { CustomersPage } from '../features/rounds/CustomersPage'
import { RoundsPage } from '../features/rounds/RoundsPage'
import { SeasonPage } from '../features/rounds/SeasonPage'
import { StockPage } from '../features/rounds/StockPage'
import { SitePage } from '../features/places/SitePage'
import { AccountPage } from '../features/settings/AccountPage'
import { CompanyPage } from '../features/settings/CompanyPage'
import { CrewPage } from '../features/settings/CrewPage'
import { InterfacePage } from '../features/settings/InterfacePage'
import { JobsPage } from '../features/settings/JobsPage'
import { MessagesPage } from '../features/settings/MessagesPage'
import { PeoplePage } from '../features/settings/PeoplePage'
import { PracticePage } from '../features/settings/PracticePage'
import { ProgramsPage } from '../features/settings/ProgramsPage'
import { RecordPage } from '../features/settings/RecordPage'
import { AmendPage } from '../features/visits/AmendPage'
import { ClosePage } from '../features/visits/ClosePage'
import { GuidePage } from '../features/visits/guide/GuidePage'
import { QuestionsPage } from '../features/visits/QuestionsPage'
import { VisitListPage } from '../features/visits/VisitListPage'
import { WaterPage } from '../features/water/WaterPage'
import { ZonePage } from '../features/water/ZonePage'
import { GlossaryPage } from './GlossaryPage'
import { Home, Office, Session } from './Shell'
import { Titled } from './Titled'
import { NotFoundPage } from './NotFoundPage'

export const router = createBrowserRouter([
  {
    element: <Session />,
    children: [
      {
        element: <Office />,
        children: [
          { index: true, element: <Home /> },
          {
            path: '/outlook',
            element: (
              <Titled as="Outlook">
                <OutlookPage />
              </Titled>
            ),
          },
          {
            path: '/rounds',
            element: (
              <Titled as="Rounds">
                <RoundsPage />
              </Titled>
            ),
          },
          {
            path: '/rounds/customers',
            element: (
              <Titled as="Customers">
                <CustomersPage />
              </Titled>
            ),
          },
          {
            path: '/rounds/stock',
            element: (
              <Titled as="Trucks and stock">
                <StockPage />
              </Titled>
            ),
          },
          {
            path: '/rounds/money',
            element: (
              <Titled as="Money">
                <MoneyPage />
              </Titled>
            ),
          },
          {
            path: '/review',
            element: (
              <Titled as="Review: forecasts">
                <ReviewPage />
              </Titled>
            ),
          },
          {
            path: '/review/practices',
            element: (
              <Titled as="Review: practices">
                <PracticesPage />
              </Titled>
            ),
          },
          {
            path: '/bench',
            element: (
              <Titled as="Bench: years in a minute">
                <LivesPage />
              </Titled>
            ),
          },
          {
            path: '/bench/calculators',
            element: (
              <Titled as="Bench: calculators">
                <CalculatorsPage />
              </Titled>
            ),
          },
          {
            path: '/bench/practise',
            element: (
              <Titled as="Bench: practise a visit">
                <ScenariosPage />
              </Titled>
            ),
          },
          {
            path: '/bench/signed-off',
            element: (
              <Titled as="Bench: signed off">
                <SignedOffPage />
              </Titled>
            ),
          },
          {
            path: '/bench/practise/:name',
            element: (
              <Titled as="Bench: a practice">
                <AtBenchPage />
              </Titled>
            ),
          },
          {
            path: '/review/tanks',
            element: (
              <Titled as="Review: tanks">
                <TanksPage />
              </Titled>
            ),
          },
          {
            path: '/review/ahead',
            element: (
              <Titled as="Review: the years ahead">
                <AheadPage />
              </Titled>
            ),
          },
          {
            path: '/review/work',
            element: (
              <Titled as="Review: work by year">
                <WorkPage />
              </Titled>
            ),
          },
          {
            path: '/review/steps',
            element: (
              <Titled as="Review: steps">
                <StepsPage />
              </Titled>
            ),
          },
          {
            path: '/questions',
            element: (
              <Titled as="Questions from visits">
                <QuestionsPage />
              </Titled>
            ),
          },
          {
            path: '/rounds/season',
            element: (
              <Titled as="Season">
                <SeasonPage />
              </Titled>
            ),
          },
          {
            path: '/register',
            element: (
              <Titled as="Register">
                <RegisterPage />
              </Titled>
            ),
          },
          {
            path: '/register/open-ends',
            element: (
              <Titled as="Open issues">
                <OpenEndsPage />
              </Titled>
            ),
          },
          {
            path: '/register/gaps',
            element: (
              <Titled as="Missing details">
                <GapsPage />
              </Titled>
            ),
          },
          {
            path: '/register/duplicates',
            element: (
              <Titled as="Possible duplicates">
                <DuplicatesPage />
              </Titled>
            ),
          },
          {
            path: '/register/files',
            element: (
              <Titled as="Import and export">
                <FilesPage />
              </Titled>
            ),
          },
          { path: '/sites/:siteId', element: <SitePage /> },
          { path: '/sites/:siteId/call', element: <CallPage /> },
          {
            path: '/water',
            element: (
              <Titled as="Water">
                <WaterPage />
              </Titled>
            ),
          },
          { path: '/water/:zoneId', element: <ZonePage /> },
          { path: '/heaters/:heaterId', element: <HeaterPage /> },
          {
            path: '/settings',
            element: (
              <Titled as="Settings">
                <CompanyPage />
              </Titled>
            ),
          },
          {
            path: '/settings/practice',
            element: (
              <Titled as="Settings: practice">
                <PracticePage />
              </Titled>
            ),
          },
          {
            path: '/settings/people',
            element: (
              <Titled as="Settings: people">
                <PeoplePage />
              </Titled>
            ),
          },
          {
            path: '/settings/crew',
            element: (
              <Titled as="Settings: crew">
                <CrewPage />
              </Titled>
            ),
          },
          {
            path: '/settings/messages',
            element: (
              <Titled as="Settings: messages">
                <MessagesPage />
              </Titled>
            ),
          },
          {
            path: '/settings/programs',
            element: (
              <Titled as="Settings: other programs">
                <ProgramsPage />
              </Titled>
            ),
          },
          {
            path: '/settings/programs/interface',
            element: (
              <Titled as="Settings: the interface">
                <InterfacePage />
              </Titled>
            ),
          },
          {
            path: '/settings/jobs',
            element: (
              <Titled as="Settings: jobs">
                <JobsPage />
              </Titled>
            ),
          },
          {
            path: '/settings/record',
            element: (
              <Titled as="Settings: who changed what">
                <RecordPage />
              </Titled>
            ),
          },
          {
            path: '/account',
            element: (
              <Titled as="Your account">
                <AccountPage />
              </Titled>
            ),
          },
          {
            path: '/glossary',
            element: (
              <Titled as="Glossary">
                <GlossaryPage />
              </Titled>
            ),
          },
          {
            path: '*',
            element: (
              <Titled as="Not found">
                <NotFoundPage />
              </Titled>
            ),
          },
        ],
      },
      {
        path: '/t/*',
        element: (
          <Titled as="Label">
            <TagPage />
          </Titled>
        ),
      },
      { path: '/visit', element: <VisitListPage /> },
      { path: '/visit/:heaterId', element: <GuidePage /> },
      { path: '/visit/:heaterId/close', element: <ClosePage /> },
      { path: '/visit/:heaterId/amend/:visitId', element: <AmendPage /> },
    ],
  },
])
