<script setup lang="ts">
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import type { DesignSummary } from '@/api/types'
import ProductMark from './ProductMark.vue'
import { useDesigns } from './useDesigns'

const router = useRouter()
const { designs, problem, create, importFile, signedOut, signOut } = useDesigns()
const name = ref('')

function open(design: DesignSummary | null): void {
  if (design) void router.push({ name: 'survey', params: { designId: design.id } })
}
async function createNamed(): Promise<void> {
  if (name.value.trim()) open(await create(name.value))
}
async function importChosen(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (file) open(await importFile(file))
  input.value = ''
}
</script>

<template>
  <main class="designs">
    <header>
      <ProductMark />
      <h1>Pontifex</h1>
    </header>
    <section v-if="signedOut" role="status">
      <h2>You are signed out</h2>
      <p>
        Run <code>pontifex ticket</code> where the server runs: it prints an address that opens another
        session.
      </p>
    </section>
    <template v-else>
      <section>
        <h2>Designs</h2>
        <p v-if="designs && !designs.length" class="muted">
          There is none yet. Make one below, or import a design file.
        </p>
        <ul>
          <li v-for="design in designs" :key="design.id">
            <RouterLink :to="{ name: 'survey', params: { designId: design.id } }">{{
              design.name
            }}</RouterLink>
            <span class="muted"
              >revision {{ design.revision }}{{ design.archived_at ? ' · archived' : '' }}</span
            >
          </li>
        </ul>
      </section>
      <section>
        <h2>New design</h2>
        <form class="line" @submit.prevent="createNamed">
          <input
            v-model="name"
            class="text"
            aria-label="Name of the new design"
            placeholder="Name"
            maxlength="80"
          />
          <button class="plain-button primary" type="submit" :disabled="!name.trim()">Make it</button>
        </form>
      </section>
      <section>
        <h2>Import a design file</h2>
        <input type="file" accept=".json,application/json" aria-label="Design file" @change="importChosen" />
      </section>
      <section v-if="problem" class="problem" role="alert">
        <h3>{{ problem.title }}</h3>
        <ul v-if="problem.errors.length">
          <li v-for="error in problem.errors" :key="error.pointer">
            <span class="figures">{{ error.pointer }}</span> {{ error.detail }}
          </li>
        </ul>
        <p v-else>{{ problem.detail }}</p>
      </section>
      <p class="foot">
        <RouterLink class="muted" :to="{ name: 'reference' }">Programming interface</RouterLink>
        <ElButton v-if="designs" size="small" @click="signOut">Sign out</ElButton>
      </p>
    </template>
  </main>
</template>

<style scoped>
.designs {
  max-width: 640px;
  margin: 0 auto;
  padding: 48px 24px;
}
header {
  display: flex;
  gap: 8px;
  align-items: center;
  margin-bottom: 24px;
}
section {
  padding: 16px;
  margin-bottom: 12px;
  border: 1px solid var(--line);
  border-radius: 3px;
  background: var(--card);
}
ul {
  margin: 8px 0 0;
  padding: 0;
  list-style: none;
}
li {
  display: flex;
  gap: 12px;
  padding: 4px 0;
}
.line {
  display: flex;
  gap: 8px;
  margin-top: 8px;
}
.text {
  flex: 1;
  padding: 4px 8px;
  border: 1px solid var(--line);
  border-radius: 3px;
  background: var(--card);
}
input[type='file'] {
  margin-top: 8px;
}
.foot {
  display: flex;
  align-items: center;
  justify-content: space-between;
}
.problem {
  border-color: var(--madder);
}
.problem h3 {
  color: var(--madder);
}
</style>
