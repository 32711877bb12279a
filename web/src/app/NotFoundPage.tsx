import { Link } from 'react-router'

import { Empty } from '../ui/States'

export function NotFoundPage() {
  return (
    <Empty>
      <h1 className="mb-2 text-title text-ink">There is no page at this address</h1>
      Go to the{' '}
      <Link className="font-semibold text-copper-deep underline" to="/outlook">
        outlook
      </Link>{' '}
      or press <kbd>/</kbd> to find a heater.
    </Empty>
  )
}
