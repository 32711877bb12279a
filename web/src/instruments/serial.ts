import { parsed, type Instrument } from './instrument'

/** What is used of a port of the browser's own serial interface (Web Serial). */
export interface SerialPortLike {
  open: (settings: { baudRate: number }) => Promise<void>
  close: () => Promise<void>
  readable: ReadableStream<Uint8Array> | null
}
interface SerialLike {
  requestPort: () => Promise<SerialPortLike>
}

const BAUD = 9600

/** The browser's serial interface, where it has one. */
export const serialOf = (navigator: Navigator): SerialLike | null =>
  (navigator as Navigator & { serial?: SerialLike }).serial ?? null

/** An instrument that writes a figure and its unit on each line. */
export function serialInstrument(port: SerialPortLike, quantity: string, now = () => Date.now()): Instrument {
  return {
    name: 'instrument by wire',
    readings: async function* (stop) {
      await port.open({ baudRate: BAUD })
      const began = now()
      const reader = port.readable!.getReader()
      const ended = () => void reader.cancel()
      stop.addEventListener('abort', ended)
      const text = new TextDecoder()
      let rest = ''
      try {
        for (let read = await reader.read(); !read.done; read = await reader.read()) {
          const lines = (rest + text.decode(read.value, { stream: true })).split(/\r?\n/)
          rest = lines.pop() ?? ''
          for (const line of lines) {
            const value = parsed(line, quantity)
            if (value !== null) yield { second: (now() - began) / 1000, value }
          }
        }
      } finally {
        stop.removeEventListener('abort', ended)
        reader.releaseLock()
        await port.close()
      }
    },
  }
}
