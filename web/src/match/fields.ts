/** The fields of an end: how each is edited, and how typed text becomes a value. */
import described from '@/api/kinds.json'
import type { Design, EndFieldDescription, Identity, TunnelEnd } from '@/api/types'

export type EndField = keyof TunnelEnd
const FIELDS = new Map((described.end_fields as EndFieldDescription[]).map((field) => [field.field, field]))

/** How a field of an end is edited, as the API describes it. */
export function fieldOf(field: string): EndFieldDescription {
  const found = FIELDS.get(field)
  if (!found) throw new Error(`nothing is said of the field ${field}`)
  return found
}

export const TECHNOLOGIES = fieldOf('technology').choices
export const YES_NO = [
  { value: true, label: 'yes' },
  { value: false, label: 'no' },
]

export const IDENTITY_TYPES: readonly Identity['type'][] = [
  'fqdn',
  'ipv4-addr',
  'ipv6-addr',
  'rfc822-addr',
  'der-asn1-dn',
  'der-asn1-gn',
  'key-id',
]

/** Networks typed as "10.1.0.0/16, 10.2.0.0/16 tcp 443": the server judges each. */
export function networksOf(text: string): string[] {
  return text
    .split(/[,;\n]+|\s+(?=[0-9a-fA-F.:]+(?:\/|-[0-9a-fA-F]*[.:]))/)
    .map((part) => part.trim())
    .filter(Boolean)
}

/** A whole number, nothing, or the text as it is for the server to judge. */
export function numberOf(text: string): number | string | null {
  const typed = text.trim()
  if (!typed) return null
  return Number.isNaN(Number(typed)) ? typed : Number(typed)
}

/** Certificates pasted one behind the other, each by itself; what is none is left for the server to judge. */
export function certificatesOf(text: string): { pem: string }[] {
  const typed = text.trim()
  if (!typed) return []
  const found = typed.match(/-----BEGIN CERTIFICATE-----[^-]*-----END CERTIFICATE-----/g)
  const rest = typed.replace(/-----BEGIN CERTIFICATE-----[^-]*-----END CERTIFICATE-----/g, '')
  const unread = /-----BEGIN/.test(rest) || !found ? [{ pem: rest.trim() }] : []
  return [...(found ?? []).map((pem) => ({ pem })), ...unread]
}

/** Keep "group 20" on one line. */
export function unbroken(text: string): string {
  return text.replace(/group (\d+)/g, 'group\u00a0$1')
}

/** Show blanks at the edges, which nobody would see otherwise. */
export function withVisibleEdges(text: string): string {
  return text.replace(/^ +| +$/g, (blanks) => '␣'.repeat(blanks.length))
}

/** The uplinks that an end may use. */
export function uplinksOf(design: Design, end: TunnelEnd): { value: string; label: string }[] {
  return design.uplinks
    .filter((uplink) => uplink.gateway_id === end.gateway_id)
    .map((uplink) => ({
      value: uplink.id,
      label: [uplink.name, uplink.address ?? uplink.dns_name ?? 'no address'].join(' · '),
    }))
}
