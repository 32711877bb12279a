/** Why something is not with the server yet: a server that is slow or away is not a telephone without a signal. */
export const reached = () => (navigator.onLine ? 'The server does not answer yet.' : 'There is no signal.')
