/** The service's pages: plain HTML that looks like somebody else's competent site. Every text is escaped. */
import type { Fault, KeptOrder } from './service'

const escape = (text: string): string => text.replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`)

const style = `
  :root { color-scheme: light; }
  body { margin: 0; font: 15px/1.5 'DejaVu Sans Mono', ui-monospace, monospace; color: #1d2433; background: #fbf7ee; }
  header { padding: 18px 32px; border-bottom: 6px double #a23b2a; display: flex; justify-content: space-between; gap: 16px; flex-wrap: wrap; }
  header strong { font-size: 20px; letter-spacing: 0.04em; }
  main { max-width: 1080px; margin: 0 auto; padding: 20px 32px 60px; }
  h1 { font-size: 20px; } h2 { font-size: 16px; margin-top: 32px; }
  table { border-collapse: collapse; width: 100%; } th, td { text-align: left; padding: 7px 10px 7px 0; border-bottom: 1px solid #d9cfba; vertical-align: top; }
  button, select, input { font: inherit; padding: 4px 10px; } button { background: #a23b2a; color: #fff; border: 0; cursor: pointer; }
  code { background: #efe6d2; padding: 2px 6px; user-select: all; } .quiet { color: #5c5a52; }
`

function page(title: string, body: string): string {
  return `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">
<title>${escape(title)} – Fernhill Captions</title><style>${style}</style></head><body>
<header><strong>FERNHILL CAPTIONS</strong><span>Typed by people, checked twice</span></header><main>${body}</main></body></html>`
}

const money = (cents: number, currency: string) => `${(cents / 100).toFixed(2)} ${currency}`
const states: Record<KeptOrder['state'], string> = {
  sound: 'waiting for its sound',
  work: 'being typed',
  ready: 'delivered',
  cancelled: 'cancelled',
  refused: 'refused',
}
const faults: Record<Fault, string> = {
  none: 'as ordered',
  late: 'late: only when told to',
  wrong: 'those of another lecture',
  short: 'cut short',
  garbled: 'with lines that cannot be read',
  twice: 'twice, the second time otherwise',
}

export interface DeskView {
  account: string
  key: string
  fault: Fault
  orders: readonly KeptOrder[]
}

/** The one page there is: who orders, what comes next, and all orders. */
export function deskPage({ account, key, fault, orders }: DeskView): string {
  const row = (o: KeptOrder) =>
    `<tr><td>${escape(o.order.title)}<br><span class="quiet">${escape(o.order.language)}${
      o.order.notes ? `, “${escape(o.order.notes)}”` : ''
    }, ${o.order.words.length} words listed</span></td><td>${escape(o.order.dueAt.slice(0, 10))}</td><td>${states[o.state]}${
      o.deliveries.length > 1 ? ` (${o.deliveries.length} times)` : ''
    }</td><td>${money(o.price, o.currency)}</td><td>${
      o.state === 'work'
        ? `<form method="post" action="/deliver/${escape(o.id)}"><button>Deliver now</button></form>`
        : ''
    }</td></tr>`
  return page(
    'Desk',
    `<h1>Account ${escape(account)}</h1>
<p>Key for programs that order here: <code>${escape(key)}</code></p>
<h2>How orders are served</h2>
<form method="post" action="/fault"><label>The next ones come <select name="fault">${Object.entries(faults)
      .map(([f, says]) => `<option value="${f}"${f === fault ? ' selected' : ''}>${says}</option>`)
      .join('')}</select></label> <button>Keep</button></form>
<p class="quiet">This service is a stand-in: nobody types here, and nothing is paid.</p>
<h2>Orders</h2>
${
  orders.length === 0
    ? '<p class="quiet">There are none.</p>'
    : `<table><thead><tr><th>Lecture</th><th>Due</th><th>State</th><th>Price</th><th><span class="quiet">By hand</span></th></tr></thead><tbody>${orders
        .map(row)
        .join('')}</tbody></table>`
}`,
  )
}
