import { ApiError, client, unwrap } from '../api/client'
import { isOnTheWay } from './journal'
import { device } from './store'

/** Pixels of a picture as sent: a rating plate can be read on it, and it goes through a weak signal. The server keeps as much. */
const LONGEST_SIDE = 2000
/** Of the JPEG, between 0 and 1. */
const QUALITY = 0.82

/** Keep a photograph of a visit on the device, no larger than it needs to be to read a rating plate. */
export async function keepPhoto(
  visit: string,
  heaterId: number,
  by: number,
  caption: string,
  file: Blob,
): Promise<void> {
  await device.photos.add({ clientId: crypto.randomUUID(), visit, heaterId, by, caption, picture: await smaller(file) })
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

/** Send what was taken, each picture once. One that the server refuses is gone: it was no picture. */
export async function sendPhotos(by: number): Promise<void> {
  for (const { clientId, visit, heaterId, caption, picture } of await device.photos.where({ by }).toArray()) {
    const form = new FormData()
    for (const [name, value] of Object.entries({
      heater_id: heaterId,
      client_id: clientId,
      visit_client_id: visit,
      caption,
    }))
      form.append(name, String(value))
    form.append('file', picture, 'photograph.jpg')
    try {
      await unwrap(
        client.POST('/api/attachments', { body: form as never, bodySerializer: (body) => body as unknown as FormData }),
      )
    } catch (error) {
      if (isOnTheWay(error) || !(error instanceof ApiError)) return
    }
    await device.photos.delete(clientId)
  }
}
