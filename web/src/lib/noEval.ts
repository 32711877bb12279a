import { z } from 'zod'

// The page's content policy lets no text be run as a script, and zod would try when the first schema is made: so this
// module is the first that is imported.
z.config({ jitless: true })
