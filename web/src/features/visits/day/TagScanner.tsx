import { useEffect, useRef, useState } from 'react'
import { useNavigate } from 'react-router'

import { Button } from '../../../ui/Button'
import { Dialog } from '../../../ui/Dialog'
import { tagOf } from './tags'

/** The camera looks for a label's code, and opens the visit of its heater. */
export function TagScanner() {
  const [open, setOpen] = useState(false)
  return (
    <>
      <Button className="h-12 shrink-0" onClick={() => setOpen(true)}>
        Scan a tag
      </Button>
      <Dialog open={open} onOpenChange={setOpen} title="Scan a tag" description="Hold the label's code in the picture.">
        {open && <Camera />}
        <Button className="mt-3 min-h-12 w-full" onClick={() => setOpen(false)}>
          Leave it
        </Button>
      </Dialog>
    </>
  )
}

function Camera() {
  const video = useRef<HTMLVideoElement>(null)
  const [wrong, setWrong] = useState('')
  const navigate = useNavigate()
  useEffect(() => {
    const ended = new AbortController()
    let stop = () => {}
    const found = (text: string) => {
      const tag = tagOf(text)
      if (tag === null) setWrong('That code is none of our labels.')
      else void navigate(`/t/${encodeURI(tag)}`)
    }
    void watched(video.current!, found)
      .then((watching) => {
        stop = watching
        if (ended.signal.aborted) stop()
      })
      .catch((error: unknown) => setWrong(whyNot(error)))
    return () => {
      ended.abort()
      stop()
    }
  }, [navigate])
  return (
    <>
      <video
        ref={video}
        muted
        playsInline
        aria-label="What the camera sees"
        className="mt-3 aspect-square w-full rounded-lg bg-shade object-cover"
      />
      <p role="status" className="mt-2 min-h-6 font-semibold text-oxide">
        {wrong}
      </p>
    </>
  )
}

/** Reads codes off the camera at the back until it is stopped. The reader is loaded when somebody scans. */
async function watched(video: HTMLVideoElement, onFound: (text: string) => void): Promise<() => void> {
  if (!navigator.mediaDevices) throw new Error('This browser gives no camera to a page without https.')
  const { BrowserQRCodeReader } = await import('@zxing/browser')
  const reader = new BrowserQRCodeReader()
  const controls = await reader.decodeFromConstraints({ video: { facingMode: 'environment' } }, video, (result) => {
    if (result) onFound(result.getText())
  })
  return () => controls.stop()
}

function whyNot(error: unknown): string {
  const name = error instanceof DOMException ? error.name : ''
  if (name === 'NotAllowedError') return 'The camera was not allowed. Type the number on the tag instead.'
  if (name === 'NotFoundError') return 'There is no camera. Type the number on the tag instead.'
  return error instanceof Error ? error.message : 'The camera cannot be read. Type the number on the tag instead.'
}
