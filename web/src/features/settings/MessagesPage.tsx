import { useQuery } from '@tanstack/react-query'

import type { Schema } from '../../api/client'
import { Failed, Loading } from '../../ui/States'
import { faultsOf } from './CompanyPage'
import { Group, NumberSetting, TextSetting, TimeBox, TimesSetting } from './controls'
import { settingsOptions, useSet } from './queries'
import { SettingsShell } from './SettingsShell'

const GATEWAYS: Record<string, string> = {
  Simulated: 'Nobody is written to: this is the demo, and its messages go nowhere.',
  Smtp: 'Mail goes out by the company’s own mail server. Texts are not sent; those customers are called.',
  Http: 'Texts go out by the gateway that the server’s settings name, mail by the mail server.',
}

/** Whether and when customers are written to, and where their answers arrive. */
export function MessagesPage() {
  const { data, error, refetch } = useQuery(settingsOptions)
  return (
    <SettingsShell title="Messages">
      {error && !data && <Failed error={error} onRetry={() => void refetch()} />}
      {!data && !error && <Loading what="the settings" />}
      {data && <Messages ours={data} />}
    </SettingsShell>
  )
}

function Messages({ ours }: { ours: Schema['SettingsOut'] }) {
  const set = useSet()
  const faults = faultsOf(set.error)
  const disabled = !ours.may_change
  const put = (body: Schema['SettingsPatch']) => set.mutate(body)
  return (
    <div className="max-w-[640px]">
      <p className={ours.gateway ? 'mb-5 text-soft' : 'mb-5 border-l-4 border-oxide pl-3 font-semibold text-oxide'}>
        {ours.gateway
          ? (GATEWAYS[ours.gateway] ?? `Messages go out by the gateway ${ours.gateway}.`)
          : 'Messages are not sent: no mail server is named. Whoever runs the server sets AQUIFER_SMTP_HOST.'}
      </p>
      <Group title="Writing to customers">
        <TimesSetting
          label="Nobody is written to"
          hint="by the company’s clock; what falls into it waits until its end. Local rules come first."
          fault={faults.quiet_from ?? faults.quiet_until}
        >
          from
          <TimeBox
            label="Quiet from"
            value={ours.quiet_from}
            disabled={disabled}
            fault={faults.quiet_from}
            onSet={(quiet_from) => put({ quiet_from })}
          />
          until
          <TimeBox
            label="Quiet until"
            value={ours.quiet_until}
            disabled={disabled}
            fault={faults.quiet_until}
            onSet={(quiet_until) => put({ quiet_until })}
          />
        </TimesSetting>
        <NumberSetting
          label="Reminded"
          value={ours.remind_days}
          unit={ours.remind_days === 0 ? 'days before: nobody is reminded' : 'days before a promised visit'}
          fault={faults.remind_days}
          disabled={disabled}
          onSet={(remind_days) => put({ remind_days })}
        />
        <TextSetting
          label="Public address"
          value={ours.public_address}
          type="url"
          hint={`Under which customers open our links. Empty: ${ours.server_address}`}
          fault={faults.public_address ? 'An address begins with https:// or http://.' : undefined}
          disabled={disabled}
          onSet={(public_address) => put({ public_address })}
        />
      </Group>
    </div>
  )
}
