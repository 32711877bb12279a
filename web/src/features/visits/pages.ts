export { AmendPage } from './AmendPage'
export { ClosePage } from './ClosePage'
export { GuidePage } from './guide/GuidePage'
export { VisitListPage } from './VisitListPage'
