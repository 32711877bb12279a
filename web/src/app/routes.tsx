import { createBrowserRouter, Navigate } from 'react-router'

import { HeaterPage } from '../features/heaters/HeaterPage'
import { RegisterPage } from '../features/heaters/RegisterPage'
import { ImportPage } from '../features/imports/ImportPage'
import { OutlookPage } from '../features/outlook/OutlookPage'
import { VisitListPage } from '../features/visits/VisitListPage'
import { VisitPage } from '../features/visits/VisitPage'
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
          { path: '/register', element: <RegisterPage /> },
          { path: '/register/import', element: <ImportPage /> },
          { path: '/heaters/:heaterId', element: <HeaterPage /> },
          { path: '*', element: <NotFoundPage /> },
        ],
      },
      { path: '/visit', element: <VisitListPage /> },
      { path: '/visit/:heaterId', element: <VisitPage /> },
    ],
  },
])
