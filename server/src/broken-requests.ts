import { type IncomingMessage, type ServerOptions, ServerResponse, STATUS_CODES } from 'node:http'
import type { Duplex } from 'node:stream'
import { HEADERS } from './app'

/** A response that has the headers of every answer from the start, also where Node itself refuses a request. */
class HeadedResponse extends ServerResponse {
  constructor(request: IncomingMessage) {
    super(request)
    for (const [name, value] of Object.entries(HEADERS)) this.setHeader(name, value)
  }
}

export const SERVER_OPTIONS: ServerOptions = {
  ServerResponse: HeadedResponse as typeof ServerResponse,
}

/** The server's own events, before anything is routed. */
interface BrokenRequests {
  on(
    event: 'clientError',
    listener: (error: NodeJS.ErrnoException, socket: Duplex) => void,
  ): unknown
  on(
    event: 'connect' | 'upgrade',
    listener: (request: IncomingMessage, socket: Duplex) => void,
  ): unknown
  on(
    event: 'checkExpectation',
    listener: (request: IncomingMessage, response: ServerResponse) => void,
  ): unknown
}

/**
 * Answers what is no request at all, too large a one, or one that never reaches the app, with the headers that stand on
 * every answer.
 */
export function answerBrokenRequests(server: BrokenRequests): void {
  server.on('clientError', (error, socket) => {
    if (error.code === 'ECONNRESET' || !socket.writable) return void socket.destroy()
    refuse(socket, error.code === 'HPE_HEADER_OVERFLOW' ? 431 : 400)
  })
  server.on('connect', (_, socket) => refuse(socket, 405))
  server.on('upgrade', (_, socket) => refuse(socket, 400))
  server.on('checkExpectation', (request, response) =>
    refuse(response.socket ?? request.socket, 417),
  )
}

function refuse(socket: Duplex, status: number): void {
  const lines = Object.entries({ ...HEADERS, Connection: 'close', 'Content-Length': '0' })
  const head = lines.map(([name, value]) => `${name}: ${value}\r\n`).join('')
  socket.end(`HTTP/1.1 ${status} ${STATUS_CODES[status]}\r\n${head}\r\n`)
}
