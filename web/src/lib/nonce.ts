import { setNonce } from 'get-nonce'

/** By what this page's own styles are known: the page's policy lets no others in. */
export const nonce = document.querySelector<HTMLMetaElement>('meta[property="csp-nonce"]')?.nonce ?? ''

// Dialogs hold the page still by a style of their own.
if (nonce) setNonce(nonce)
