/** Make the types of the front end from the API's description; what is sent as octets is a Blob here. */
import { readFile, writeFile } from 'node:fs/promises'
import openapiTS, { astToString } from 'openapi-typescript'
import ts from 'typescript'

const BLOB = ts.factory.createTypeReferenceNode(ts.factory.createIdentifier('Blob'))
const described = JSON.parse(await readFile('openapi.json', 'utf8'))
const tree = await openapiTS(described, {
  transform: (schema) => (schema.format === 'binary' ? BLOB : undefined),
})
await writeFile('src/api/schema.d.ts', astToString(tree))
