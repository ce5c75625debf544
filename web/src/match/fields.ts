/** The fields of an end: how each is edited, and how typed text becomes a value. */
import type { Design, Identity, TunnelEnd } from '@/api/types'
import { words } from '@/ui/words'

export type EndField = keyof TunnelEnd
export type EditorKind =
  | 'choice'
  | 'text'
  | 'uplink'
  | 'identity'
  | 'networks'
  | 'number'
  | 'key'
  | 'proposals'
  | 'certificates'
  | 'account'
  | 'several'
  | 'keypair'

interface FieldKind {
  kind: EditorKind
  hint?: string
  choices?: readonly { value: unknown; label: string }[]
  needed?: boolean // can't be "not known"
}

const named = (...values: string[]) => values.map((value) => ({ value, label: words(value) }))
const asTheyAre = (...values: string[]) => values.map((value) => ({ value, label: value }))
const ON_OFF = [
  { value: true, label: 'on' },
  { value: false, label: 'off' },
]
const PROOFS = named('pre-shared-key', 'certificate', 'eap')

export const TECHNOLOGIES = [
  { value: 'ipsec-ikev2', label: 'IPsec with IKEv2' },
  { value: 'ipsec-ikev1', label: 'IPsec with IKEv1' },
  { value: 'tls', label: 'TLS' },
  { value: 'peer-key', label: 'static peer keys' },
  { value: 'cloud-peering', label: 'a cloud peering' },
] as const
export const DATA_CIPHERS = [
  'AES-256-GCM',
  'AES-128-GCM',
  'ChaCha20-Poly1305',
  'AES-256-CBC',
  'AES-128-CBC',
  '3DES-CBC',
  'NULL',
] as const

const NETWORKS: FieldKind = {
  kind: 'networks',
  hint: 'prefixes or ranges, parted by commas; tcp 443 behind one limits it',
}
const SECONDS: FieldKind = { kind: 'number', hint: 'seconds' }
const OCTETS: FieldKind = { kind: 'number', hint: 'octets' }
const KINDS: Partial<Record<EndField, FieldKind>> = {
  technology: { kind: 'choice', choices: TECHNOLOGIES, needed: true },
  enabled: {
    kind: 'choice',
    choices: ON_OFF,
    needed: true,
    hint: 'This tunnel alone. Each gateway has a switch for all of its tunnels, too: Survey, Gateways.',
  },
  peering_agreed: {
    kind: 'choice',
    choices: [
      { value: true, label: 'yes' },
      { value: false, label: 'no' },
    ],
    hint: 'This side has requested the peering, or accepted the request.',
  },
  role: { kind: 'choice', choices: named('call', 'wait', 'on-traffic') },
  peer_address: { kind: 'text', hint: 'address, DNS name, or: any' },
  uplink_id: { kind: 'uplink' },
  port: { kind: 'number', hint: '1 to 65535' },
  mode: { kind: 'choice', choices: named('policy', 'route') },
  inner_address: { kind: 'text', hint: 'such as 10.64.255.1/30' },
  inner_mtu: OCTETS,
  tcp_mss: OCTETS,
  keepalive_s: { kind: 'number', hint: 'seconds; 0 is off' },
  dead_peer_s: { kind: 'number', hint: 'seconds; 0 is off' },
  compression: { kind: 'choice', choices: ON_OFF },
  local_identity: { kind: 'identity', hint: 'letter by letter, as the device has it' },
  remote_identity: { kind: 'identity', hint: 'letter by letter, as the device has it' },
  local_auth: { kind: 'choice', choices: PROOFS },
  remote_auth: { kind: 'choice', choices: PROOFS },
  key: { kind: 'key' },
  control_key: { kind: 'key' },
  eap_method: {
    kind: 'choice',
    choices: asTheyAre('EAP-TLS', 'EAP-TTLS', 'EAP-MSCHAP-V2', 'EAP-pwd', 'EAP-AKA', 'GTC', 'MD5-Challenge'),
  },
  account: { kind: 'account' },
  accepted_account: { kind: 'account' },
  certificates: { kind: 'certificates' },
  trust_anchors: { kind: 'certificates' },
  ike_proposals: { kind: 'proposals' },
  child_proposals: { kind: 'proposals' },
  exchange_mode: { kind: 'choice', choices: named('main', 'aggressive') },
  ike_lifetime_s: SECONDS,
  child_lifetime_s: SECONDS,
  child_lifetime_mib: { kind: 'number', hint: 'MiB' },
  rekey_margin_s: SECONDS,
  reauthenticate: { kind: 'choice', choices: ON_OFF },
  local_networks: NETWORKS,
  remote_networks: NETWORKS,
  pushed_networks: NETWORKS,
  transport: { kind: 'choice', choices: asTheyAre('udp', 'tcp') },
  data_ciphers: { kind: 'several', choices: asTheyAre(...DATA_CIPHERS) },
  digest: { kind: 'choice', choices: asTheyAre('SHA2-256', 'SHA2-384', 'SHA2-512', 'SHA1', 'MD5') },
  renegotiation_s: SECONDS,
  key_pair: { kind: 'keypair' },
  peer_public_key: { kind: 'text', hint: '44 characters of base64' },
}

export function fieldKind(field: string): FieldKind {
  return KINDS[field as EndField] ?? { kind: 'text' }
}

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
