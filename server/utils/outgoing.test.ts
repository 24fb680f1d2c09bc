import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { askOutside, foreignWords, isWithin, NotAllowed } from './outgoing'

describe('addresses within a house', () => {
  it.each([
    '127.0.0.1',
    '10.1.2.3',
    '169.254.169.254',
    '172.31.0.1',
    '192.168.1.1',
    '0.0.0.0',
    '::1',
    'fd00::7',
    'fe80::1',
  ])('%s is one', (address) => expect(isWithin(address)).toBe(true))
  it.each(['::ffff:10.0.0.1', '::ffff:7f00:1'])('%s is one, written as IPv6', (a) => expect(isWithin(a)).toBe(true))
  it.each(['8.8.8.8', '172.32.0.1', '193.0.0.1', '2001:db8::1'])('%s is none', (a) => expect(isWithin(a)).toBe(false))
})

describe('asking an address that a person gave', () => {
  let server: Server
  let port: number
  let asked = 0
  beforeAll(async () => {
    server = createServer((_, response) => {
      asked++
      response.end('here')
    })
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
    port = (server.address() as AddressInfo).port
  })
  afterAll(() => server.close())

  it.each(['127.0.0.1', '127.1', '0x7f.0.0.1', '2130706433', '[::ffff:127.0.0.1]', 'localhost'])(
    'refuses %s, however it is written, and does not connect',
    async (host) => {
      await expect(askOutside(`http://${host}:${port}/`, {}, [])).rejects.toThrow(NotAllowed)
      expect(asked).toBe(0)
    },
  )
  it('asks a host that is listed, with its port or on any', async () => {
    for (const trusted of [`localhost:${port}`, 'localhost'])
      expect(await (await askOutside(`http://localhost:${port}/`, {}, [trusted])).text()).toBe('here')
    await expect(askOutside(`http://localhost:${port}/`, {}, ['localhost:1'])).rejects.toThrow(NotAllowed)
  })
})

describe('what another house says', () => {
  it('is a line of plain words', () => {
    expect(foreignWords('No such\n order\u202e.')).toBe('No such order .')
    expect(foreignWords('Sign in at https://evil.example/key?x or www.evil.example.')).toBe(
      'Sign in at (an address) or (an address)',
    )
    expect(foreignWords('x'.repeat(500))).toHaveLength(200)
    expect(foreignWords({ message: 'no' })).toBe('')
  })
})
