/** The API's own description (OpenAPI 3.1) as a page shows it: operations by area, with what they take and answer. */

export interface SchemaLike {
  $ref?: string
  type?: string | string[]
  title?: string
  description?: string
  enum?: unknown[]
  const?: unknown
  items?: SchemaLike
  anyOf?: SchemaLike[]
  oneOf?: SchemaLike[]
  allOf?: SchemaLike[]
  properties?: Record<string, SchemaLike>
  required?: string[]
}
interface Content {
  content?: Record<string, { schema?: SchemaLike }>
  description?: string
}
interface OperationLike {
  tags?: string[]
  summary?: string
  description?: string
  parameters?: { name: string; in: string; required?: boolean; schema?: SchemaLike; description?: string }[]
  requestBody?: Content
  responses?: Record<string, Content>
}
export interface ApiDescription {
  paths: Record<string, Record<string, OperationLike>>
  components: { schemas: Record<string, SchemaLike> }
}

export interface FieldRow {
  name: string
  type: string
  required: boolean
  about: string
}
export interface Operation {
  key: string
  method: string
  path: string
  summary: string
  description: string
  parameters: FieldRow[]
  body: string
  answers: { status: string; type: string; about: string }[]
}

/** The type of a schema in a few words; what is described elsewhere by its name. */
export function typeName(schema: SchemaLike | undefined): string {
  if (!schema) return ''
  if (schema.$ref) return schema.$ref.split('/').at(-1) ?? ''
  const either = schema.anyOf ?? schema.oneOf ?? schema.allOf
  if (either) return [...new Set(either.map(typeName))].join(' or ')
  if (schema.enum) return schema.enum.map(String).join(' | ')
  if (schema.const !== undefined) return String(schema.const)
  if (schema.items) return `list of ${typeName(schema.items)}`
  return [schema.type ?? 'anything'].flat().join(' or ')
}

export function fieldsOf(schema: SchemaLike | undefined): FieldRow[] {
  return Object.entries(schema?.properties ?? {}).map(([name, field]) => ({
    name,
    type: typeName(field),
    required: schema?.required?.includes(name) ?? false,
    about: [field.title, field.description].filter(Boolean).join('. '),
  }))
}

function bodyType(content: Content | undefined): string {
  const [media] = Object.values(content?.content ?? {})
  return typeName(media?.schema)
}

/** Operations by area, each in the order of its paths. */
export function operationsByArea(description: ApiDescription): Map<string, Operation[]> {
  const areas = new Map<string, Operation[]>()
  for (const [path, methods] of Object.entries(description.paths)) {
    for (const [method, operation] of Object.entries(methods)) {
      const area = operation.tags?.[0] ?? 'other'
      const shown: Operation = {
        key: `${method} ${path}`,
        method: method.toUpperCase(),
        path,
        summary: operation.summary ?? '',
        description: operation.description ?? '',
        parameters: (operation.parameters ?? []).map((parameter) => ({
          name: parameter.name,
          type: typeName(parameter.schema),
          required: parameter.required ?? false,
          about: parameter.description ?? parameter.schema?.title ?? '',
        })),
        body: bodyType(operation.requestBody),
        answers: Object.entries(operation.responses ?? {}).map(([status, answer]) => ({
          status,
          type: bodyType(answer),
          about: answer.description ?? '',
        })),
      }
      areas.set(area, [...(areas.get(area) ?? []), shown])
    }
  }
  return areas
}
