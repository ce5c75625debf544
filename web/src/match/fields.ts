/** The fields of an end: how each is edited, and how typed text becomes a value. */
import type { Design, Identity, TunnelEnd } from '@/api/types'

export type EndField = keyof TunnelEnd
export type EditorKind =
  'role' | 'text' | 'uplink' | 'identity' | 'networks' | 'seconds' | 'key' | 'proposals'

const KINDS: Partial<Record<EndField, EditorKind>> = {
  role: 'role',
  peer_address: 'text',
  uplink_id: 'uplink',
  local_identity: 'identity',
  remote_identity: 'identity',
  key: 'key',
  ike_proposals: 'proposals',
  child_proposals: 'proposals',
  local_networks: 'networks',
  remote_networks: 'networks',
  ike_lifetime_s: 'seconds',
  child_lifetime_s: 'seconds',
}

export function editorKind(field: string): EditorKind {
  return KINDS[field as EndField] ?? 'text'
}

export const IDENTITY_TYPES: readonly Identity['type'][] = [
  'fqdn',
  'ipv4-addr',
  'ipv6-addr',
  'rfc822-addr',
  'der-asn1-dn',
  'key-id',
]

/** Networks typed as "10.1.0.0/16, 10.2.0.0/16": the server judges each. */
export function networksOf(text: string): string[] {
  return text.split(/[\s,;]+/).filter(Boolean)
}

/** Whole seconds, nothing, or the text as it is for the server to judge. */
export function secondsOf(text: string): number | string | null {
  const typed = text.trim()
  if (!typed) return null
  return Number.isNaN(Number(typed)) ? typed : Number(typed)
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
