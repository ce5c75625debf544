import { beforeEach, describe, expect, it } from 'vitest'
import { ref } from 'vue'
import type { Changed, Design, Operation, Problem } from '@/api/types'
import { EMPTY, network } from '@/testing/designs'
import { useGridOrder } from '@/ui/grid/useGridOrder'
import { useGridSelection } from '@/ui/grid/useGridSelection'
import { gridOf } from './grids'
import { NEW, useRows, type RowsSession } from './useRows'

const DESIGN: Design = {
  ...EMPTY,
  sites: [{ id: 'alder', name: 'Alder', kind: 'office', organisation: '', place: '', region: '' }],
  networks: [
    network({ id: 'n1', site_id: 'alder', name: 'staff', prefix: '10.64.0.0/24' }),
    network({ id: 'n2', site_id: 'alder', name: 'yard', prefix: '10.64.1.0/24', vlan: 7 }),
  ],
}
const REFUSED = 'host bits are set in 10.64.0.1/24; did you mean 10.64.0.0/24?'

function withPut(design: Design, operations: Operation[]): Design {
  const objects = operations.flatMap((operation) =>
    operation.op === 'put-network' ? [operation.object] : [],
  )
  const byId = new Map([...design.networks, ...objects].map((known) => [known.id, known]))
  return { ...design, networks: [...byId.values()] }
}

/** A session that takes every change but those of a prefix with host bits, and those while nobody answers. */
function session() {
  const sent: Operation[][] = []
  const design = ref(DESIGN)
  const refusal = ref<Problem | null>(null)
  const answers = ref(true)
  const problem = (errors: Problem['errors'], detail = '') =>
    ({ title: '', status: 422, detail, errors, meanwhile: [], meanwhile_count: 0, type: '' }) as Problem
  let answered: Promise<unknown> = Promise.resolve() // how long an answer takes
  async function change(operations: Operation[]): Promise<Changed | null> {
    await answered
    const wrong = operations.findIndex((operation) => JSON.stringify(operation).includes('10.64.0.1/24'))
    if (!answers.value) refusal.value = problem([], 'The server does not answer.')
    else if (wrong >= 0)
      refusal.value = problem([{ pointer: `/operations/${wrong}/object/prefix`, detail: REFUSED }])
    else {
      sent.push(operations)
      design.value = withPut(design.value, operations)
      return { revision: sent.length, fields: [], operations: [], analysis: null }
    }
    return null
  }
  const made: RowsSession = {
    designId: ref('d'),
    design,
    change,
    refusal,
    dismissRefusal: () => (refusal.value = null),
  }
  const slow = (answer: Promise<unknown>) => (answered = answer)
  return { sent, answers, slow, session: made }
}
const networks = gridOf('networks')!

describe('rows that are typed', () => {
  beforeEach(() => sessionStorage.clear())

  it('keeps a refused text with its reason while the rest of the row is written', async () => {
    const { sent, session: open } = session()
    const { rows, textOf, write, typedIn, cancel } = useRows(open, networks)
    await write([{ id: 'n1', field: 'prefix', text: '10.64.0.1/24' }])
    await write([{ id: 'n1', field: 'vlan', text: '12' }])
    const [first] = rows.value
    expect(textOf(first!, 'prefix')).toBe('10.64.0.1/24')
    expect((typedIn.value.get('n1') ?? []).map(([field, typed]) => [field, typed.reason])).toEqual([
      ['prefix', REFUSED],
    ])
    expect(sent).toHaveLength(1)
    expect(sent[0]?.[0]).toMatchObject({ object: { prefix: '10.64.0.0/24', vlan: 12 } })
    cancel('n1', 'prefix')
    expect(textOf(first!, 'prefix')).toBe('10.64.0.0/24')
  })
  it('refuses a word that no column knows, and sends nothing', async () => {
    const { sent, session: open } = session()
    const { write, typedIn } = useRows(open, networks)
    await write([{ id: 'n2', field: 'site_id', text: 'Birch' }])
    expect((typedIn.value.get('n2') ?? [])[0]?.[1].reason).toBe("there is no site called 'Birch'")
    expect(sent).toEqual([])
  })
  it('writes a range as one change, without the rows of it that are refused', async () => {
    const { sent, session: open } = session()
    const { write, typedIn } = useRows(open, networks)
    await write([
      { id: 'n1', field: 'prefix', text: '10.64.0.1/24' },
      { id: 'n2', field: 'prefix', text: '10.64.9.0/24' },
    ])
    expect(sent.map((operations) => operations.length)).toEqual([1])
    expect(sent[0]?.[0]).toMatchObject({ object: { id: 'n2', prefix: '10.64.9.0/24' } })
    expect((typedIn.value.get('n1') ?? [])[0]?.[1].reason).toBe(REFUSED)
  })
  it('adds a new row once nothing is missing or refused, and says what is missing', async () => {
    const { sent, session: open } = session()
    const { write, missing, rows, textOf } = useRows(open, networks)
    await write([{ id: NEW, field: 'name', text: 'kiosks' }])
    expect(missing.value.map((column) => column.title)).toEqual(['Site', 'Prefix'])
    await write([{ id: NEW, field: 'site_id', text: 'alder' }])
    await write([{ id: NEW, field: 'prefix', text: '10.64.0.1/24' }])
    await write([{ id: NEW, field: 'vlan', text: '3' }])
    expect(sent).toEqual([])
    await write([{ id: NEW, field: 'prefix', text: '10.64.3.0/24' }])
    expect(sent[0]?.[0]).toMatchObject({
      object: { id: 'alder-kiosks', site_id: 'alder', prefix: '10.64.3.0/24', vlan: 3 },
    })
    expect(textOf(rows.value.at(-1)!, 'name')).toBe('')
  })
  it('loses nothing that is typed while an answer takes its time, in a row that is new as well', async () => {
    const { sent, slow, session: open } = session()
    const { write, typedIn } = useRows(open, networks)
    let answer = () => {}
    slow(new Promise<void>((done) => (answer = done)))
    const all = [
      write([{ id: 'n1', field: 'vlan', text: '5' }]),
      write([{ id: 'n1', field: 'zone', text: 'quay' }]),
      write([{ id: NEW, field: 'name', text: 'kiosks' }]),
      write([{ id: NEW, field: 'site_id', text: 'alder' }]),
      write([{ id: NEW, field: 'prefix', text: '10.64.3.0/24' }]),
    ]
    await Promise.resolve()
    all.push(write([{ id: NEW, field: 'vlan', text: '9' }]))
    answer()
    await Promise.all(all)
    const last = new Map(
      sent.flat().map((operation) => [JSON.stringify(operation).match(/"id":"([^"]+)"/)?.[1], operation]),
    )
    expect(last.get('n1')).toMatchObject({ object: { vlan: 5, zone: 'quay' } })
    expect(last.get('alder-kiosks')).toMatchObject({ object: { prefix: '10.64.3.0/24', vlan: 9 } })
    expect([
      typedIn.value.get('n1') ?? [],
      typedIn.value.get(NEW) ?? [],
      typedIn.value.get('alder-kiosks') ?? [],
    ]).toEqual([[], [], []])
  })
  it('keeps what nobody answered, over a reload, and writes it again', async () => {
    const { sent, answers, session: open } = session()
    answers.value = false
    await useRows(open, networks).write([{ id: 'n1', field: 'vlan', text: '5' }])
    const later = useRows(open, networks)
    await Promise.resolve()
    expect((later.typedIn.value.get('n1') ?? [])[0]?.[1]).toMatchObject({
      text: '5',
      reason: 'The server does not answer.',
    })
    answers.value = true
    await later.again('n1')
    expect(sent[0]?.[0]).toMatchObject({ object: { vlan: 5 } })
    expect(later.typedIn.value.get('n1') ?? []).toEqual([])
  })
})

describe('the selection and order of a grid', () => {
  it('moves within the bounds and chooses from the anchor to the cursor', () => {
    const { range, step, goTo, isChosen } = useGridSelection(ref(3), ref(4))
    step(-1, 9)
    expect(range.value).toEqual({ top: 0, bottom: 0, left: 3, right: 3 })
    goTo(1, 1)
    step(9, 1, true)
    expect(range.value).toEqual({ top: 1, bottom: 2, left: 1, right: 2 })
    expect(isChosen(2, 2)).toBe(true)
    expect(isChosen(0, 1)).toBe(false)
  })
  it('sorts numbers in addresses as numbers, back, and gives the order up; filters by any column', () => {
    const rows = ref(['10.64.10.0/24 b', '10.64.9.0/24 a', '10.64.9.0/25 c'])
    const parts = (row: string, field: string) => row.split(' ')[field === 'prefix' ? 0 : 1]!
    const { ordered, sortBy, sought } = useGridOrder(rows, ref(['prefix', 'name']), parts)
    const names = () => ordered.value.map((row) => parts(row, 'name')).join('')
    sortBy('prefix')
    expect(names()).toBe('acb')
    sortBy('prefix')
    expect(names()).toBe('bca')
    sortBy('prefix')
    expect(names()).toBe('bac')
    sought.value = '.9.'
    expect(names()).toBe('ac')
  })
})
