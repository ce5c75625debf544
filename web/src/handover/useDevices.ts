/** Devices that are reached from here: how, and what is read, entered, saved and restarted there. */
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, type Ref } from 'vue'
import { api, bodyOf, Refusal } from '@/api/client'
import type { components } from '@/api/schema'
import type { DesignSession } from '@/design/useDesignSession'

type Schemas = components['schemas']
export type DeviceAccess = Schemas['AccessShown']
export type NewDevice = Schemas['NewDevice']

export type DeviceAct = Schemas['DeviceAct']

const ACT_WORDS: Record<DeviceAct, { doing: string; done: string }> = {
  reading: { doing: 'Reading …', done: 'Read.' },
  saving: { doing: 'Saving …', done: 'Saved, and read again.' },
  restart: { doing: 'Restarting …', done: 'Restarted, and read again.' },
}
export const PROTOCOL_WORDS: Record<DeviceAccess['protocol'], string> = { restconf: 'RESTCONF', ssh: 'SSH' }

export function useAccesses({ designId }: DesignSession) {
  return useQuery({
    queryKey: ['devices', designId],
    queryFn: () =>
      bodyOf(
        api.GET('/api/designs/{design_id}/devices', { params: { path: { design_id: designId.value } } }),
      ),
  })
}

/** How one gateway is reached; undefined where nobody has said. */
export function useAccess(session: DesignSession, gatewayId: Ref<string>) {
  const { data } = useAccesses(session)
  return computed(() => data.value?.find((candidate) => candidate.gateway_id === gatewayId.value))
}

/** What is done at one device: one thing at a time, with what came of it in a sentence. */
export function useDevice({ designId }: DesignSession, gatewayId: Ref<string>) {
  const client = useQueryClient()
  const busy = ref('') // what is being done
  const said = ref('')
  const trouble = ref('')
  const params = () => ({ params: { path: { design_id: designId.value, gateway_id: gatewayId.value } } })

  async function doing(what: string, work: () => Promise<string>): Promise<boolean> {
    busy.value = what
    said.value = trouble.value = ''
    try {
      said.value = await work()
      return true
    } catch (failed) {
      if (!(failed instanceof Refusal)) throw failed
      trouble.value = `${failed.problem.title}: ${failed.problem.detail}`
      return false
    } finally {
      busy.value = ''
      await client.invalidateQueries({ queryKey: ['drift', designId.value] })
      await client.invalidateQueries({ queryKey: ['devices', designId.value] })
    }
  }
  const act = (what: DeviceAct) =>
    doing(ACT_WORDS[what].doing, async () => {
      await actAt(designId.value, gatewayId.value, what)
      return ACT_WORDS[what].done
    })
  const enter = (paths: string[]) =>
    doing('Entering …', async () => {
      const found = await bodyOf(
        api.POST('/api/designs/{design_id}/gateways/{gateway_id}/device/settings', {
          ...params(),
          body: { paths },
        }),
      )
      if (found.missed.length)
        trouble.value = `The device didn't take ${found.missed.length} of ${paths.length}; what it runs is shown below.`
      return found.missed.length ? '' : "Entered, and read back as intended. It isn't saved yet."
    })
  const keep = (way: NewDevice) =>
    doing('Keeping …', async () => {
      await bodyOf(
        api.PUT('/api/designs/{design_id}/gateways/{gateway_id}/device', { ...params(), body: way }),
      )
      return 'Kept.'
    })
  const forget = () =>
    doing('Forgetting …', async () => {
      await api.DELETE('/api/designs/{design_id}/gateways/{gateway_id}/device', params())
      return 'Forgotten.'
    })
  return { busy, said, trouble, act, enter, keep, forget }
}

/** Read a device, let it save or restart; throws a Refusal where it doesn't answer. */
export function actAt(designId: string, gatewayId: string, act: DeviceAct) {
  return bodyOf(
    api.POST('/api/designs/{design_id}/gateways/{gateway_id}/device/{act}', {
      params: { path: { design_id: designId, gateway_id: gatewayId, act } },
    }),
  )
}

/** What a device shows, to be compared with its own; throws a Refusal where nothing answers. */
export async function shownBy(
  designId: string,
  protocol: DeviceAccess['protocol'],
  address: string,
): Promise<string> {
  const found = await bodyOf(
    api.POST('/api/designs/{design_id}/devices/shown', {
      params: { path: { design_id: designId } },
      body: { protocol, address },
    }),
  )
  return found.fingerprint
}
