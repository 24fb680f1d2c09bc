// npx tsx scripts/write-schemas.ts: writes docs/schemas from core/schema, for those who use the documents elsewhere.
import { mkdirSync, writeFileSync } from 'node:fs'
import { documents, standalone } from '../core/schema/documents'

const folder = new URL('../docs/schemas/', import.meta.url)
mkdirSync(folder, { recursive: true })
for (const [name, schema] of Object.entries(documents))
  writeFileSync(new URL(`${name}.json`, folder), JSON.stringify(standalone(schema), null, 2) + '\n')
