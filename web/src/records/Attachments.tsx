import { useQuery } from '@tanstack/react-query'
import { useRef, useState } from 'react'

import type { Schema } from '../api/client'
import { useCompany, useMay } from '../session/session'
import { dateWords } from '../lib/dates'
import { Button } from '../ui/Button'
import { Dialog } from '../ui/Dialog'
import { Field } from '../ui/Field'
import { useVersion } from './version'
import { attachmentsOptions, useAddAttachment, useChangeAttachment, type Owner } from './attachmentQueries'

const address = (one: Schema['AttachmentOut'], small = false) =>
  `/api/attachments/${one.id}/file${small ? '?small=true' : ''}`

/** Photographs and documents of a heater or a site, and a way to add one. */
export function Attachments({ of }: { of: Owner }) {
  const may = useMay('record_place')
  const { data } = useQuery(attachmentsOptions(of))
  const add = useAddAttachment(of)
  const input = useRef<HTMLInputElement>(null)
  const [open, setOpen] = useState<Schema['AttachmentOut'] | null>(null)
  const pictures = data?.filter((one) => one.kind === 'photograph') ?? []
  const documents = data?.filter((one) => one.kind === 'document') ?? []
  return (
    <>
      {pictures.length > 0 && (
        <ul className="mt-1 grid grid-cols-3 gap-2">
          {pictures.map((one) => (
            <li key={one.id}>
              <button
                type="button"
                onClick={() => setOpen(one)}
                className="block w-full overflow-hidden rounded border border-line"
                aria-label={`Photograph: ${one.caption || 'no caption'}`}
              >
                <img src={address(one, true)} alt="" loading="lazy" className="h-18 w-full object-cover" />
              </button>
              {one.caption && <span className="block text-fine text-soft">{one.caption}</span>}
            </li>
          ))}
        </ul>
      )}
      {documents.length > 0 && (
        <ul className="mt-1">
          {documents.map((one) => (
            <li key={one.id} className="wrap-break-word">
              <a href={address(one)} className="text-copper-deep underline underline-offset-2">
                {one.caption || 'Document'}
              </a>{' '}
              <span className="text-fine text-soft">PDF, {size(one.bytes)}</span>
            </li>
          ))}
        </ul>
      )}
      {data?.length === 0 && <p className="text-soft">None yet.</p>}
      {may && (
        <>
          <input
            ref={input}
            type="file"
            accept="image/jpeg,image/png,image/webp,application/pdf"
            aria-label="Photograph or PDF to add"
            className="hidden"
            onChange={(event) => {
              const file = event.target.files?.[0]
              if (file) add.mutate({ file, caption: named(file) })
              event.target.value = ''
            }}
          />
          <Button look="quiet" className="-ml-2" disabled={add.isPending} onClick={() => input.current?.click()}>
            {add.isPending ? 'Sending …' : 'Add a photograph or PDF'}
          </Button>
        </>
      )}
      {add.error && (
        <p role="alert" className="font-semibold text-oxide">
          {add.error.message}
        </p>
      )}
      {open && <Shown one={open} onClose={() => setOpen(null)} />}
    </>
  )
}

function Shown({ one, onClose }: { one: Schema['AttachmentOut']; onClose: () => void }) {
  const { today } = useCompany()
  const edits = useMay('edit_register')
  const change = useChangeAttachment(one.id)
  const [caption, setCaption] = useState(one.caption)
  const { version, onError } = useVersion(one.version)
  const on = one.taken_on
    ? `taken ${dateWords(one.taken_on, today)}`
    : `added ${dateWords(one.added_at.slice(0, 10), today)}`
  return (
    <Dialog
      open
      onOpenChange={(open) => !open && onClose()}
      title={one.caption || 'Photograph'}
      description={[on, one.added_by].filter(Boolean).join(' · ')}
      wide
    >
      <img
        src={address(one)}
        alt={one.caption || 'Photograph without a caption'}
        className="mt-3 max-h-[60vh] w-full rounded bg-shade object-contain"
      />
      {edits && (
        <form
          className="mt-3 flex items-end gap-3"
          onSubmit={(event) => {
            event.preventDefault()
            change.mutate({ caption, version }, { onSuccess: onClose, onError })
          }}
        >
          <Field
            className="flex-1"
            label="What it shows"
            value={caption}
            maxLength={160}
            onChange={(event) => setCaption(event.target.value)}
            fault={change.error?.message}
          />
          <Button type="submit" disabled={change.isPending}>
            Save
          </Button>
          <Button
            look="quiet"
            disabled={change.isPending}
            onClick={() => change.mutate({ gone: true, version }, { onSuccess: onClose, onError })}
          >
            Take away
          </Button>
        </form>
      )}
    </Dialog>
  )
}

/** A camera's own name says nothing. */
function named(file: File): string {
  const name = file.name.replace(/\.[a-z0-9]+$/i, '').replace(/[_-]+/g, ' ')
  return /^(img|dsc|pxl|image|photo)?[\s\d]*$/i.test(name) ? '' : name.slice(0, 160)
}

function size(bytes: number): string {
  return bytes < 1e6 ? `${Math.max(1, Math.round(bytes / 1000))} kB` : `${(bytes / 1e6).toFixed(1)} MB`
}
