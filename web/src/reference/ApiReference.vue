<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import ProductMark from '@/app/ProductMark.vue'
import { type ApiDescription, fieldsOf, operationsByArea } from './description'

const { data: description, error } = useQuery({
  queryKey: ['openapi'],
  queryFn: async () => {
    const answer = await fetch('/api/openapi.json')
    if (!answer.ok) throw new Error(`the description can't be read (${answer.status})`)
    return (await answer.json()) as ApiDescription
  },
})
const sought = ref('')
const areas = computed(() => {
  const words = sought.value.trim().toLowerCase()
  const all = description.value ? [...operationsByArea(description.value)] : []
  return all
    .map(([area, operations]) => ({
      area,
      operations: operations.filter((operation) =>
        `${operation.key} ${operation.summary}`.toLowerCase().includes(words),
      ),
    }))
    .filter((candidate) => candidate.operations.length)
})
const schemas = computed(() =>
  Object.entries(description.value?.components.schemas ?? {}).filter(([name]) =>
    name.toLowerCase().includes(sought.value.trim().toLowerCase()),
  ),
)
</script>

<template>
  <main class="reference">
    <header>
      <RouterLink to="/" title="All designs"><ProductMark /></RouterLink>
      <h1>Programming interface</h1>
      <a href="/api/openapi.json" download="pontifex-openapi.json">OpenAPI document</a>
    </header>
    <p class="muted">
      Requests go with the session of this browser. Refusals are problem details (RFC 9457). All writes to a
      design are changes with a base revision.
    </p>
    <ElInput v-model="sought" class="sought" clearable placeholder="Path, word or name of a type" />
    <p v-if="error" role="alert">{{ error.message }}</p>
    <section v-for="{ area, operations } in areas" :key="area" :aria-label="area">
      <h2>{{ area }}</h2>
      <ElCollapse>
        <ElCollapseItem v-for="operation in operations" :key="operation.key" :name="operation.key">
          <template #title>
            <span class="method">{{ operation.method }}</span>
            <code>{{ operation.path }}</code>
            <span class="muted summary">{{ operation.summary }}</span>
          </template>
          <p>{{ operation.description }}</p>
          <ElTable v-if="operation.parameters.length" :data="operation.parameters" size="small">
            <ElTableColumn prop="name" label="Parameter" width="180" />
            <ElTableColumn prop="type" label="Type" width="220" />
            <ElTableColumn label="Required" width="90">
              <template #default="{ row }">{{ row.required ? 'yes' : '' }}</template>
            </ElTableColumn>
            <ElTableColumn prop="about" label="Meaning" />
          </ElTable>
          <p v-if="operation.body">
            Takes <code>{{ operation.body }}</code>
          </p>
          <ElTable :data="operation.answers" size="small">
            <ElTableColumn prop="status" label="Answer" width="90" />
            <ElTableColumn prop="type" label="Type" width="310" />
            <ElTableColumn prop="about" label="When" />
          </ElTable>
        </ElCollapseItem>
      </ElCollapse>
    </section>
    <section v-if="schemas.length" aria-label="Types">
      <h2>Types</h2>
      <ElCollapse>
        <ElCollapseItem v-for="[name, schema] in schemas" :key="name" :name="name" :title="name">
          <p>{{ schema.description }}</p>
          <p v-if="schema.enum" class="figures">{{ schema.enum.join(' · ') }}</p>
          <ElTable v-if="schema.properties" :data="fieldsOf(schema)" size="small">
            <ElTableColumn prop="name" label="Field" width="190" />
            <ElTableColumn prop="type" label="Type" width="240" />
            <ElTableColumn label="Required" width="90">
              <template #default="{ row }">{{ row.required ? 'yes' : '' }}</template>
            </ElTableColumn>
            <ElTableColumn prop="about" label="Meaning" />
          </ElTable>
        </ElCollapseItem>
      </ElCollapse>
    </section>
  </main>
</template>

<style scoped>
.reference {
  max-width: 1100px;
  margin: 0 auto;
  padding: 20px 24px 48px;
}
header {
  display: flex;
  gap: 12px;
  align-items: center;
}
header a:last-child {
  margin-left: auto;
}
.sought {
  max-width: 420px;
  margin: 8px 0;
}
h2 {
  margin: 20px 0 6px;
  text-transform: capitalize;
}
.reference :deep(.el-collapse-item__header),
.reference :deep(.el-collapse-item__content) {
  padding-left: 12px;
  padding-right: 12px;
}
.method {
  display: inline-block;
  width: 64px;
  font-weight: 600;
}
.summary {
  padding: 0 12px;
}
</style>
