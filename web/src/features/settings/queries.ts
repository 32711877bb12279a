import { queryOptions, useMutation, useQueryClient } from '@tanstack/react-query'

import { client, unwrap, type Schema } from '../../api/client'

export const settingsOptions = queryOptions({
  queryKey: ['settings', 'company'],
  queryFn: () => unwrap(client.GET('/api/settings/company')),
})

export const crewOptions = queryOptions({
  queryKey: ['settings', 'crew'],
  queryFn: () => unwrap(client.GET('/api/settings/crew')),
})

export const peopleOptions = queryOptions({
  queryKey: ['settings', 'people'],
  queryFn: () => unwrap(client.GET('/api/settings/people')),
})

export const recordOptions = queryOptions({
  queryKey: ['settings', 'history'],
  queryFn: () => unwrap(client.GET('/api/settings/history')),
})

/** A setting may bear on any page: units, dates, who works when. */
function useEverythingAnew() {
  const queries = useQueryClient()
  return () => void queries.invalidateQueries()
}

/** One after the other, each by the version that the one before left. */
export function useSet() {
  const anew = useEverythingAnew()
  const queries = useQueryClient()
  return useMutation({
    scope: { id: 'company' },
    mutationFn: (said: Schema['SettingsPatch']) => {
      const body = { ...said, version: queries.getQueryData(settingsOptions.queryKey)?.version ?? null }
      return unwrap(client.PATCH('/api/settings/company', { body }))
    },
    onSuccess: (ours) => queries.setQueryData(settingsOptions.queryKey, ours),
    onSettled: anew,
  })
}

export function useSetMoney() {
  const anew = useEverythingAnew()
  const queries = useQueryClient()
  return useMutation({
    scope: { id: 'money' },
    mutationFn: (said: Partial<Schema['MoneySettingsIn']>) => {
      const ours = queries.getQueryData(settingsOptions.queryKey)!
      const { currency, hour_cost, quotes_last_days, part_warranty_months, work_warranty_days, leak_damage } = ours
      const standing = { currency, hour_cost, quotes_last_days, part_warranty_months, work_warranty_days, leak_damage }
      const body = { ...standing, version: ours.money_version, ...said }
      return unwrap(client.PUT('/api/money/settings', { body }))
    },
    onSuccess: ({ version, ...money }) =>
      queries.setQueryData(settingsOptions.queryKey, (ours) => ours && { ...ours, ...money, money_version: version }),
    onSettled: anew,
  })
}

export function useLogo() {
  const anew = useEverythingAnew()
  return useMutation({
    mutationFn: (file: File | null) => {
      if (!file) return unwrap(client.DELETE('/api/settings/logo'))
      const body = new FormData()
      body.append('file', file)
      return unwrap(client.POST('/api/settings/logo', { body: body as unknown as { file: string } }))
    },
    onSuccess: anew,
  })
}

export function useChangeMember(id: number) {
  const anew = useEverythingAnew()
  const queries = useQueryClient()
  return useMutation({
    scope: { id: `crew ${id}` },
    mutationFn: (said: Schema['CrewMemberPatch']) => {
      const now = queries.getQueryData(crewOptions.queryKey)?.members.find((one) => one.id === id)
      const body = { ...said, version: now?.version ?? null }
      return unwrap(client.PATCH('/api/settings/crew/{member_id}', { params: { path: { member_id: id } }, body }))
    },
    onSuccess: (member) =>
      queries.setQueryData(
        crewOptions.queryKey,
        (crew) => crew && { ...crew, members: crew.members.map((one) => (one.id === id ? member : one)) },
      ),
    onSettled: anew,
  })
}

export function useAddMember() {
  const anew = useEverythingAnew()
  return useMutation({
    mutationFn: (user_id: number) => unwrap(client.POST('/api/settings/crew', { body: { user_id } })),
    onSuccess: anew,
  })
}

export function useAddAbsence() {
  const anew = useEverythingAnew()
  return useMutation({
    mutationFn: (body: Schema['AbsenceIn']) => unwrap(client.POST('/api/settings/absences', { body })),
    onSuccess: anew,
  })
}

export function useDropAbsence() {
  const anew = useEverythingAnew()
  return useMutation({
    mutationFn: async (id: number) => {
      const answer = client.DELETE('/api/settings/absences/{absence_id}', { params: { path: { absence_id: id } } })
      return unwrap(answer.then((one) => ({ ...one, data: null })))
    },
    onSuccess: anew,
  })
}

export function useLend() {
  const anew = useEverythingAnew()
  return useMutation({
    mutationFn: (body: Schema['LoanIn']) => unwrap(client.POST('/api/settings/loans', { body })),
    onSuccess: anew,
  })
}

export function useTakeBack() {
  const anew = useEverythingAnew()
  return useMutation({
    mutationFn: async (id: number) => {
      const answer = client.DELETE('/api/settings/loans/{loan_id}', { params: { path: { loan_id: id } } })
      return unwrap(answer.then((one) => ({ ...one, data: null })))
    },
    onSuccess: anew,
  })
}

export function useAddPerson() {
  const anew = useEverythingAnew()
  return useMutation({
    mutationFn: (body: Schema['PersonIn']) => unwrap(client.POST('/api/settings/people', { body })),
    onSuccess: anew,
  })
}

export function useChangePerson(id: number) {
  const anew = useEverythingAnew()
  return useMutation({
    mutationFn: (body: Schema['PersonPatch']) =>
      unwrap(client.PATCH('/api/settings/people/{person_id}', { params: { path: { person_id: id } }, body })),
    onSuccess: anew,
  })
}

export function usePasswordLink() {
  return useMutation({
    mutationFn: (id: number) =>
      unwrap(client.POST('/api/settings/people/{person_id}/password-link', { params: { path: { person_id: id } } })),
  })
}

export function useOwnPassword() {
  return useMutation({
    mutationFn: async (body: Schema['PasswordIn']) =>
      unwrap(client.POST('/api/me/password', { body }).then((one) => ({ ...one, data: null }))),
  })
}

export const tokensOptions = queryOptions({
  queryKey: ['settings', 'tokens'],
  queryFn: () => unwrap(client.GET('/api/settings/tokens')),
})

export const hooksOptions = queryOptions({
  queryKey: ['settings', 'hooks'],
  queryFn: () => unwrap(client.GET('/api/settings/hooks')),
})

function useProgramsAnew() {
  const queries = useQueryClient()
  return () => void queries.invalidateQueries({ queryKey: ['settings'] })
}

export function useMakeToken() {
  const anew = useProgramsAnew()
  return useMutation({
    mutationFn: (body: Schema['TokenIn']) => unwrap(client.POST('/api/settings/tokens', { body })),
    onSuccess: anew,
  })
}

export function useRevoke() {
  const anew = useProgramsAnew()
  return useMutation({
    mutationFn: (id: number) =>
      unwrap(
        client
          .DELETE('/api/settings/tokens/{token_id}', { params: { path: { token_id: id } } })
          .then((one) => ({ ...one, data: null })),
      ),
    onSettled: anew,
  })
}

export function useAddHook() {
  const anew = useProgramsAnew()
  return useMutation({
    mutationFn: (body: Schema['HookIn']) => unwrap(client.POST('/api/settings/hooks', { body })),
    onSuccess: anew,
  })
}

export function useChangeHook(id: number) {
  const anew = useProgramsAnew()
  return useMutation({
    mutationFn: (body: Schema['HookPatch']) =>
      unwrap(client.PATCH('/api/settings/hooks/{hook_id}', { params: { path: { hook_id: id } }, body })),
    onSettled: anew,
  })
}

export function useTryHook(id: number) {
  const anew = useProgramsAnew()
  return useMutation({
    mutationFn: () => unwrap(client.POST('/api/settings/hooks/{hook_id}/try', { params: { path: { hook_id: id } } })),
    onSettled: anew,
  })
}

export function useAgain() {
  const anew = useProgramsAnew()
  return useMutation({
    mutationFn: (id: number) =>
      unwrap(client.POST('/api/settings/deliveries/{delivery_id}/again', { params: { path: { delivery_id: id } } })),
    onSettled: anew,
  })
}

export const accountOptions = queryOptions({
  queryKey: ['settings', 'account'],
  queryFn: () => unwrap(client.GET('/api/me/account')),
})

export const notedOptions = queryOptions({
  queryKey: ['settings', 'noted'],
  queryFn: () => unwrap(client.GET('/api/settings/noted')),
})

export function useEndSession() {
  const anew = useProgramsAnew()
  return useMutation({
    mutationFn: (key: string) =>
      unwrap(
        client.DELETE('/api/me/sessions/{key}', { params: { path: { key } } }).then((one) => ({ ...one, data: null })),
      ),
    onSettled: anew,
  })
}

/** The browser makes a key for this page; only its public half is sent. */
export function useAddPasskey() {
  const anew = useProgramsAnew()
  return useMutation({
    mutationFn: async ({ name, now }: { name: string; now: string }) => {
      const asked = await unwrap(client.POST('/api/me/passkeys/begin', { body: { now } }))
      const publicKey = PublicKeyCredential.parseCreationOptionsFromJSON(asked as never)
      const key = await navigator.credentials.create({ publicKey }).catch(() => null)
      if (!key) throw new Error('No key was made: the device was not asked for one, or knows this page already.')
      const credential = (key as PublicKeyCredential).toJSON() as Record<string, unknown>
      return unwrap(client.POST('/api/me/passkeys', { body: { name, credential } }))
    },
    onSuccess: anew,
  })
}

export function useDropPasskey() {
  const anew = useProgramsAnew()
  return useMutation({
    mutationFn: (id: number) =>
      unwrap(
        client
          .DELETE('/api/me/passkeys/{passkey_id}', { params: { path: { passkey_id: id } } })
          .then((one) => ({ ...one, data: null })),
      ),
    onSettled: anew,
  })
}

export function useBeginSecondStep() {
  return useMutation({ mutationFn: () => unwrap(client.POST('/api/me/second-step')) })
}

export function useConfirmSecondStep() {
  const anew = useProgramsAnew()
  return useMutation({
    mutationFn: (code: string) => unwrap(client.POST('/api/me/second-step/code', { body: { code } })),
    onSuccess: anew,
  })
}

export function useDropSecondStep() {
  const anew = useProgramsAnew()
  return useMutation({
    mutationFn: (now: string) =>
      unwrap(client.POST('/api/me/second-step/drop', { body: { now } }).then((one) => ({ ...one, data: null }))),
    onSuccess: anew,
  })
}

export function useNewCodes() {
  return useMutation({
    mutationFn: (now: string) => unwrap(client.POST('/api/me/second-step/codes', { body: { now } })),
  })
}

export function useDropSecondStepOf(id: number) {
  const anew = useProgramsAnew()
  return useMutation({
    mutationFn: () =>
      unwrap(
        client
          .POST('/api/settings/people/{person_id}/second-step/drop', { params: { path: { person_id: id } } })
          .then((one) => ({ ...one, data: null })),
      ),
    onSuccess: anew,
  })
}

export const jobsOptions = queryOptions({
  queryKey: ['settings', 'jobs'],
  queryFn: () => unwrap(client.GET('/api/settings/jobs')),
  refetchInterval: 15_000,
})

export function useJobAgain() {
  const anew = useProgramsAnew()
  return useMutation({
    mutationFn: (id: number) =>
      unwrap(
        client
          .POST('/api/settings/jobs/{job_id}/again', { params: { path: { job_id: id } } })
          .then((one) => ({ ...one, data: null })),
      ),
    onSettled: anew,
  })
}
