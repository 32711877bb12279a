import { Rooms } from '../../ui/Rooms'

const ROOMS = [
  { to: '/review', words: 'Were the dates right?' },
  { to: '/review/practices', words: 'Which practice on which water?' },
  { to: '/review/steps', words: 'How steps are done' },
  { to: '/review/tanks', words: 'Tanks near their end' },
  { to: '/review/work', words: 'Work by year' },
  { to: '/review/hours', words: 'How long visits take' },
  { to: '/review/months', words: 'Calls by month' },
  { to: '/review/ahead', words: 'The years ahead' },
  { to: '/register/gaps', words: 'What is not known' },
]

/** What the lead looks over, and the way to what answers it elsewhere. */
export const ReviewNav = () => <Rooms label="Review" rooms={ROOMS} />
