/** The stand-in's pages: plain HTML that looks like somebody else's competent site. Every text is escaped. */

export const escape = (text: string): string => text.replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`)

const style = `
  body { margin: 0; font: 16px/1.55 Georgia, 'DejaVu Serif', serif; color: #241f1c; background: #fff; }
  header { background: #4b2840; color: #fff; padding: 14px 28px; display: flex; justify-content: space-between; align-items: baseline; gap: 16px; flex-wrap: wrap; }
  header a, header button { color: #fff; }
  header button { background: none; border: 1px solid #fff; padding: 4px 12px; font: inherit; cursor: pointer; }
  main { max-width: 940px; margin: 0 auto; padding: 24px 28px 60px; }
  h1 { font-size: 28px; margin: 12px 0 4px; } h2 { font-size: 19px; border-bottom: 2px solid #4b2840; margin: 28px 0 8px; padding-bottom: 4px; }
  a { color: #5f2a4d; } .quiet { color: #5d5551; }
  ul { list-style: none; padding: 0; margin: 0; } li { padding: 8px 0; border-bottom: 1px solid #e4dcd7; }
  select, main button { font: inherit; padding: 6px 12px; }
  main button { background: #4b2840; color: #fff; border: 0; cursor: pointer; }
  iframe { width: 100%; height: 74vh; min-height: 520px; border: 1px solid #bbaea6; }
  main.wide { max-width: 1180px; padding-top: 12px; } main.wide h1 { font-size: 22px; }
  @media (max-width: 600px) { main, header { padding-left: 14px; padding-right: 14px; } }
`

export interface Frame {
  title: string
  /** Name of who is signed in, or null. */
  who: string | null
  wide?: boolean
}

/** @param body HTML whose texts are escaped already */
export function page({ title, who, wide }: Frame, body: string): string {
  return `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">
<title>${escape(title)} – Norrhaven course pages</title><style>${style}</style></head><body>
<header><a href="/course-site/"><strong>Norrhaven Polar College</strong></a>${who === null ? '<span>Course pages</span>' : `<form method="post" action="/course-site/sign-out">${escape(who)} <button>Sign out</button></form>`}</header>
<main${wide ? ' class="wide"' : ''}>${body}</main></body></html>`
}
