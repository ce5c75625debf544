/** Ids of new objects: made of names, so that links and files can be read. */

/** Return lower-case letters, digits and hyphens made of a name. */
export function slug(name: string): string {
  const plain = name
    .normalize('NFKD')
    .replace(/[\u0300-\u036f]/g, '')
    .toLowerCase()
  return (
    plain
      .replace(/[^a-z0-9]+/g, '-')
      .slice(0, 50)
      .replace(/^-+|-+$/g, '') || 'new'
  )
}

/** Return an id made of a name that is not taken yet. */
export function freshId(name: string, taken: ReadonlySet<string>): string {
  const base = slug(name)
  if (!taken.has(base)) return base
  let number = 2
  while (taken.has(`${base}-${number}`)) number += 1
  return `${base}-${number}`
}
