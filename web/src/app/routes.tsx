import { createBrowserRouter, Navigate } from 'react-router'

import { GapsPage } from '../features/gaps/GapsPage'
import { DuplicatesPage } from '../features/heaters/DuplicatesPage'
import { HeaterPage } from '../features/heaters/HeaterPage'
import { RegisterPage } from '../features/heaters/RegisterPage'
import { TagPage } from '../features/heaters/TagPage'
import { FilesPage } from '../features/imports/FilesPage'
import { MoneyPage } from '../features/money/MoneyPage'
import { OpenEndsPage } from '../features/openEnds/OpenEndsPage'
import { OutlookPage } from '../features/outlook/OutlookPage'
import { PracticesPage } from '../features/review/PracticesPage'
import { ReviewPage } from '../features/review/ReviewPage'
import { StepsPage } from '../features/review/StepsPage'
import { TanksPage } from '../features/review/TanksPage'
import { CustomersPage } from '../features/rounds/CustomersPage'
import { RoundsPage } from '../features/rounds/RoundsPage'
import { SeasonPage } from '../features/rounds/SeasonPage'
import { StockPage } from '../features/rounds/StockPage'
import { SitePage } from '../features/places/SitePage'
import { AmendPage } from '../features/visits/AmendPage'
import { ClosePage } from '../features/visits/ClosePage'
import { GuidePage } from '../features/visits/guide/GuidePage'
import { QuestionsPage } from '../features/visits/QuestionsPage'
import { VisitListPage } from '../features/visits/VisitListPage'
import { WaterPage } from '../features/water/WaterPage'
import { ZonePage } from '../features/water/ZonePage'
import { Office, Session } from './Shell'
import { NotFoundPage } from './NotFoundPage'

export const router = createBrowserRouter([
  {
    element: <Session />,
    children: [
      {
        element: <Office />,
        children: [
          { index: true, element: <Navigate to="/outlook" replace /> },
          { path: '/outlook', element: <OutlookPage /> },
          { path: '/rounds', element: <RoundsPage /> },
          { path: '/rounds/customers', element: <CustomersPage /> },
          { path: '/rounds/stock', element: <StockPage /> },
          { path: '/rounds/money', element: <MoneyPage /> },
          { path: '/review', element: <ReviewPage /> },
          { path: '/review/practices', element: <PracticesPage /> },
          { path: '/review/tanks', element: <TanksPage /> },
          { path: '/review/steps', element: <StepsPage /> },
          { path: '/questions', element: <QuestionsPage /> },
          { path: '/rounds/season', element: <SeasonPage /> },
          { path: '/register', element: <RegisterPage /> },
          { path: '/register/open-ends', element: <OpenEndsPage /> },
          { path: '/register/gaps', element: <GapsPage /> },
          { path: '/register/duplicates', element: <DuplicatesPage /> },
          { path: '/register/files', element: <FilesPage /> },
          { path: '/sites/:siteId', element: <SitePage /> },
          { path: '/water', element: <WaterPage /> },
          { path: '/water/:zoneId', element: <ZonePage /> },
          { path: '/heaters/:heaterId', element: <HeaterPage /> },
          { path: '*', element: <NotFoundPage /> },
        ],
      },
      { path: '/t/*', element: <TagPage /> },
      { path: '/visit', element: <VisitListPage /> },
      { path: '/visit/:heaterId', element: <GuidePage /> },
      { path: '/visit/:heaterId/close', element: <ClosePage /> },
      { path: '/visit/:heaterId/amend/:visitId', element: <AmendPage /> },
    ],
  },
])
