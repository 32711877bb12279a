import { useQuery } from '@tanstack/react-query'
import { DropdownMenu } from 'radix-ui'
import { useState } from 'react'
import { useNavigate } from 'react-router'

import type { Schema } from '../api/client'
import { Button } from '../ui/Button'
import { Dialog } from '../ui/Dialog'
import { Field } from '../ui/Field'
import { useKeepView, viewsOptions } from './heaterQueries'

/** Sentences kept under a name: one's own and those that others share. */
export function Views({ place, path, query }: { place: Schema['Place']; path: string; query: string }) {
  const views = useQuery(viewsOptions(place)).data ?? []
  const keep = useKeepView(place)
  const navigate = useNavigate()
  const [naming, setNaming] = useState(false)
  const [name, setName] = useState('')
  const [shared, setShared] = useState(false)
  return (
    <>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger className="px-2 py-1 text-copper-deep underline-offset-4 hover:underline">
          Views
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            align="end"
            sideOffset={4}
            className="z-50 min-w-56 rounded-md border border-line bg-sheet p-1 shadow-lg"
          >
            {views.map((one) => (
              <DropdownMenu.Item
                key={one.id}
                className="cursor-pointer rounded px-3 py-1.5 data-[highlighted]:bg-ground"
                onSelect={() => void navigate(`${path}?${one.query}`)}
              >
                {one.name}
                {one.shared && <span className="text-soft"> · shared</span>}
              </DropdownMenu.Item>
            ))}
            {views.length === 0 && (
              <DropdownMenu.Label className="px-3 py-1.5 text-soft">No view is kept yet</DropdownMenu.Label>
            )}
            <DropdownMenu.Separator className="my-1 h-px bg-line" />
            <DropdownMenu.Item
              className="cursor-pointer rounded px-3 py-1.5 font-semibold data-[highlighted]:bg-ground"
              onSelect={() => setNaming(true)}
            >
              Keep this one …
            </DropdownMenu.Item>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      <Dialog open={naming} onOpenChange={setNaming} title="Keep this view">
        <form
          className="mt-4 space-y-3"
          onSubmit={(event) => {
            event.preventDefault()
            keep.mutate({ place, name, query, shared }, { onSuccess: () => setNaming(false) })
          }}
        >
          <Field
            label="Name"
            value={name}
            maxLength={60}
            autoFocus
            onChange={(event) => setName(event.target.value)}
            fault={keep.error?.message}
          />
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              className="size-4"
              checked={shared}
              onChange={(event) => setShared(event.target.checked)}
            />{' '}
            Everybody may use it
          </label>
          <Button look="main" type="submit" disabled={!name.trim() || keep.isPending}>
            Keep it
          </Button>
        </form>
      </Dialog>
    </>
  )
}
