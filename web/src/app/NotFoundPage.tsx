import { Link } from 'react-router'

import { Empty } from '../ui/States'

export function NotFoundPage() {
  return (
    <Empty>
      There is no page at this address. Go to the{' '}
      <Link className="font-semibold text-copper-deep underline" to="/outlook">
        outlook
      </Link>{' '}
      or press <kbd>/</kbd> to find a heater.
    </Empty>
  )
}
