import { useQuery } from '@tanstack/react-query'

import { ChangeList } from '../../records/History'
import { useMay } from '../../session/session'
import { Failed, Loading } from '../../ui/States'
import { Noted } from './Noted'
import { recordOptions } from './queries'
import { SettingsShell } from './SettingsShell'

/** Every change of a setting, of whoever asks may make such a change, with who and when. */
export function RecordPage() {
  const keeps = useMay('keep_people')
  const { data, error, refetch } = useQuery(recordOptions)
  return (
    <SettingsShell title="Who changed what">
      {error && !data && <Failed error={error} onRetry={() => void refetch()} />}
      {!data && !error && <Loading what="the changes" />}
      <div className="grid gap-x-12 gap-y-8 lg:grid-cols-2">
        {data && (
          <section aria-label="Changes">
            <ChangeList changes={data} mayTakeBack />
          </section>
        )}
        {keeps && <Noted />}
      </div>
    </SettingsShell>
  )
}
