const signs: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&#39;' }
/** Text made safe to stand in HTML. */
export const safe = (text: string) => text.replace(/[&<>"']/g, (sign) => signs[sign] ?? sign)

const STYLE = `
  :root { color-scheme: light; font: 15px/1.5 system-ui, sans-serif; color: #1e2b2a; background: #f4f1ea }
  body { margin: 0 auto; max-width: 60rem; padding: 1rem 1.25rem 3rem }
  h1 { font-size: 1.2rem; margin: .5rem 0 }
  .hint { color: #55605e; margin: 0 0 1rem }
  a { color: #4a2f86 }
  ul { list-style: none; padding: 0; margin: 0 }
  li { border-top: 1px solid #d9d3c5; padding: .45rem 0; display: flex; gap: 1rem; align-items: baseline }
  li a { flex: 1; overflow-wrap: anywhere }
  pre { background: #fffdf8; border: 1px solid #d9d3c5; border-radius: 6px; padding: .8rem; white-space: pre-wrap; overflow-wrap: anywhere }
  form { display: flex; flex-wrap: wrap; gap: .5rem; margin: 1rem 0; align-items: end }
  label { display: flex; flex-direction: column; flex: 1 1 16rem }
  input, button { font: inherit; padding: .45rem .8rem; border: 1px solid #8c8675; border-radius: 6px; background: #fffdf8; color: inherit }
  button { cursor: pointer }
  .said { padding: .6rem .8rem; border-left: 4px solid #5a3e9b; background: #fffdf8 }
  .refused { border-color: #b4432f }
`

/** A page of a stand-in: plain, and all of one look. */
export const page = (title: string, body: string, script = ''): string =>
  `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1"><title>${safe(title)}</title><style>${STYLE}</style></head><body><main>${body}</main>${script && `<script>${script}</script>`}</body></html>`
