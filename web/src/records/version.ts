import { useState } from 'react'

import { ApiError } from '../api/client'

/**
 * The version that an edit started from. Whoever is told that somebody changed the record meanwhile, and what, starts
 * from that when they save again.
 */
export function useVersion(read: number | undefined) {
  const [version, setVersion] = useState(read)
  return {
    version: version ?? null,
    onError: (error: Error) => {
      if (error instanceof ApiError && error.code === 'changed_meanwhile') setVersion(Number(error.fields.version))
    },
  }
}
