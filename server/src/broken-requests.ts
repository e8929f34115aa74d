import { STATUS_CODES } from 'node:http'
import type { Duplex } from 'node:stream'
import { HEADERS } from './app'

interface BrokenRequests {
  on(
    event: 'clientError',
    listener: (error: NodeJS.ErrnoException, socket: Duplex) => void,
  ): unknown
}

/** Answers what is no request at all, or too large a one, with the headers that stand on every answer. */
export function answerBrokenRequests(server: BrokenRequests): void {
  server.on('clientError', (error, socket) => {
    if (error.code === 'ECONNRESET' || !socket.writable) return void socket.destroy()
    const status = error.code === 'HPE_HEADER_OVERFLOW' ? 431 : 400
    const lines = Object.entries({ ...HEADERS, Connection: 'close', 'Content-Length': '0' })
    const head = lines.map(([name, value]) => `${name}: ${value}\r\n`).join('')
    socket.end(`HTTP/1.1 ${status} ${STATUS_CODES[status]}\r\n${head}\r\n`)
  })
}
