import { ApiError, client, unwrap } from '../api/client'
import { isOnTheWay } from './eventLog'
import { device } from './store'

/**
 * Pixels of a picture as sent: a rating plate can be read on it, and it goes through a weak signal. The server keeps
 * as much.
 */
const LONGEST_SIDE = 2000
/** Of the JPEG, between 0 and 1. */
const QUALITY = 0.82

/** Keep a photograph of a visit on the device, no larger than it needs to be to read a rating plate. */
export async function keepPhoto(
  visit: string,
  heaterId: number,
  by: number,
  caption: string,
  piece: string,
  file: Blob,
): Promise<void> {
  const picture = await smaller(file)
  await device.photos.add({ clientId: crypto.randomUUID(), visit, heaterId, by, caption, piece, picture })
}

async function smaller(file: Blob): Promise<Blob> {
  const image = await createImageBitmap(file).catch(() => null)
  if (!image) return file
  const scale = Math.min(1, LONGEST_SIDE / Math.max(image.width, image.height))
  const canvas = new OffscreenCanvas(Math.round(image.width * scale), Math.round(image.height * scale))
  canvas.getContext('2d')!.drawImage(image, 0, 0, canvas.width, canvas.height)
  image.close()
  return canvas.convertToBlob({ type: 'image/jpeg', quality: QUALITY })
}

let sending = Promise.resolve()

/**
 * Send what was taken, each picture once. One that the server refuses stays, with why: somebody may want it.
 * Whoever asks meanwhile waits for what is under way: a picture is large, and is not to go up twice.
 */
export function sendPhotos(by: number): Promise<void> {
  sending = sending.catch(() => undefined).then(() => sendAll(by))
  return sending
}

async function sendAll(by: number): Promise<void> {
  for (const one of await device.photos.where({ by }).toArray()) {
    const { clientId, visit, heaterId, caption, piece, picture, trouble } = one
    if (trouble) continue
    const form = new FormData()
    for (const [name, value] of Object.entries({
      heater_id: heaterId,
      client_id: clientId,
      visit_client_id: visit,
      caption,
      piece: piece ?? '',
    }))
      form.append(name, String(value))
    form.append('file', picture, 'photograph.jpg')
    try {
      await unwrap(
        client.POST('/api/attachments', { body: form as never, bodySerializer: (body) => body as unknown as FormData }),
      )
    } catch (error) {
      if (isOnTheWay(error) || !(error instanceof ApiError)) return
      await device.photos.update(clientId, { trouble: error.message })
      continue
    }
    await device.photos.delete(clientId)
  }
}
