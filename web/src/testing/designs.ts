/** Designs for tests: nothing in them but what a test is about. */
import type { Design, Network } from '@/api/types'

export const EMPTY: Design = {
  id: 'd',
  incarnation: '',
  revision: 0,
  name: 'Design',
  key_salt: '0'.repeat(32),
  supernets: [],
  policies: [],
  policy_id: 'current-practice',
  planning_horizon_days: 60,
  sites: [],
  gateways: [],
  uplinks: [],
  networks: [],
  standards: [],
  tunnels: [],
  hosts: [],
  prefix_reservations: [],
  translations: [],
  routes: [],
  rules: [],
  filters: [],
  prefix_lists: [],
  exits: [],
  cloud_networks: [],
  cloud_rules: [],
  intents: [],
  platforms: [],
  profiles: [],
  acceptances: [],
  templates: [],
}

export function network(
  fields: Pick<Network, 'id' | 'site_id' | 'name' | 'prefix'> & Partial<Network>,
): Network {
  return {
    role: 'user',
    vlan: null,
    gateway_address: null,
    zone: '',
    dhcp_ranges: [],
    lease_time_s: null,
    reserved_ranges: [],
    hosts_expected: null,
    dhcp_routes: [],
    resolvers: [],
    interface: null,
    own_table: false,
    ...fields,
  }
}
