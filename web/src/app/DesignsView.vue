<script setup lang="ts">
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import type { DesignSummary } from '@/api/types'
import { dateAndTime } from '@/ui/words'
import UploadButton from '@/ui/UploadButton.vue'
import DeleteDesign from './DeleteDesign.vue'
import FindingsCount from './FindingsCount.vue'
import DesignName from './DesignName.vue'
import ProductMark from './ProductMark.vue'
import { useDesigns } from './useDesigns'

const router = useRouter()
const list = useDesigns()
const { designs, deleted, problem, signedOut } = list
const name = ref('')
const renamed = ref<DesignSummary | null>(null)
const duplicated = ref<DesignSummary | null>(null)
const leaving = ref<DesignSummary | null>(null)

function open(design: DesignSummary | null): void {
  if (design) void router.push({ name: 'survey', params: { designId: design.id } })
}
async function createNamed(): Promise<void> {
  if (name.value.trim()) open(await list.create(name.value))
}
async function importChosen(file: File): Promise<void> {
  open(await list.importFile(file))
}
function act(what: string, design: DesignSummary): void {
  if (what === 'rename') renamed.value = design
  else if (what === 'duplicate') duplicated.value = design
  else if (what === 'delete') leaving.value = design
  else void list.archive(design, what === 'archive')
}
</script>

<template>
  <main class="designs">
    <header>
      <ProductMark />
      <h1>Pontifex</h1>
      <ElButton v-if="designs && !signedOut" class="out" @click="list.signOut">Sign out</ElButton>
    </header>
    <section v-if="signedOut" role="status">
      <h2>You are signed out</h2>
      <p>
        Run <code>pontifex ticket</code> where the server runs: it prints an address that opens another
        session.
      </p>
    </section>
    <template v-else>
      <ElAlert v-if="problem" class="problem" type="error" show-icon :closable="false" :title="problem.title">
        <ul v-if="problem.errors.length">
          <li v-for="error in problem.errors" :key="error.pointer">
            <span class="figures">{{ error.pointer }}</span> {{ error.detail }}
          </li>
        </ul>
        <p v-else>{{ problem.detail }}</p>
      </ElAlert>
      <section>
        <div class="line">
          <h2>Designs</h2>
          <form class="new" @submit.prevent="createNamed">
            <ElInput
              v-model="name"
              maxlength="80"
              aria-label="Name of the new design"
              placeholder="Name of a new design"
            />
            <ElButton type="primary" native-type="submit" :disabled="!name.trim()"> Add design </ElButton>
          </form>
          <UploadButton accept=".json,application/json" @file="importChosen"
            >Import a design file</UploadButton
          >
        </div>
        <ElTable v-if="designs" :data="designs" empty-text="None yet. Add one, or import a design file.">
          <ElTableColumn label="Name" min-width="220">
            <template #default="{ row }">
              <RouterLink :to="{ name: 'survey', params: { designId: row.id } }">{{ row.name }}</RouterLink>
              <span v-if="row.archived_at" class="muted"> archived</span>
              <div class="muted figures">{{ row.id }}</div>
            </template>
          </ElTableColumn>
          <ElTableColumn prop="sites" label="Sites" width="80" align="right" />
          <ElTableColumn prop="tunnels" label="Tunnels" width="90" align="right" />
          <ElTableColumn label="Findings" min-width="130">
            <template #default="{ row }"><FindingsCount :design="row as DesignSummary" /></template>
          </ElTableColumn>
          <ElTableColumn prop="revision" label="Revision" width="90" align="right" />
          <ElTableColumn label="Last change" min-width="190">
            <template #default="{ row }">
              <template v-if="row.changed_at"
                >{{ dateAndTime(row.changed_at) }}, {{ row.changed_by }}</template
              >
              <span v-else class="muted">none yet</span>
            </template>
          </ElTableColumn>
          <ElTableColumn width="110" align="right">
            <template #header><span class="for-readers">Actions</span></template>
            <template #default="{ row }">
              <ElDropdown trigger="click" @command="(what: string) => act(what, row as DesignSummary)">
                <ElButton :aria-label="`Actions on ${row.name}`">Actions</ElButton>
                <template #dropdown>
                  <ElDropdownMenu>
                    <ElDropdownItem command="rename" :disabled="Boolean(row.archived_at)"
                      >Rename …</ElDropdownItem
                    >
                    <ElDropdownItem command="duplicate">Duplicate …</ElDropdownItem>
                    <ElDropdownItem :command="row.archived_at ? 'take out' : 'archive'">
                      {{ row.archived_at ? 'Take out of the archive' : 'Archive' }}
                    </ElDropdownItem>
                    <ElDropdownItem command="delete" divided>Delete …</ElDropdownItem>
                  </ElDropdownMenu>
                </template>
              </ElDropdown>
            </template>
          </ElTableColumn>
        </ElTable>
      </section>
      <section v-if="deleted?.length" aria-label="Deleted designs">
        <h2>Deleted</h2>
        <p class="muted">Each is kept for 30 days, with its history and keys.</p>
        <ElTable :data="deleted">
          <ElTableColumn prop="name" label="Name" min-width="220" />
          <ElTableColumn label="Deleted" min-width="190">
            <template #default="{ row }">{{ dateAndTime(row.deleted_at) }}</template>
          </ElTableColumn>
          <ElTableColumn width="110" align="right">
            <template #header><span class="for-readers">Actions</span></template>
            <template #default="{ row }">
              <ElButton :aria-label="`Restore ${row.name}`" @click="list.restore(row as DesignSummary)"
                >Restore</ElButton
              >
            </template>
          </ElTableColumn>
        </ElTable>
      </section>
      <p><RouterLink class="muted" :to="{ name: 'reference' }">Programming interface</RouterLink></p>
    </template>
    <DesignName
      v-model="renamed"
      title="Rename a design"
      label="New name"
      action="Rename"
      :suggest="(summary) => summary.name"
      :send="list.rename"
    />
    <DesignName
      v-model="duplicated"
      title="Duplicate a design"
      label="Name of the copy"
      action="Duplicate"
      note="The copy has all objects and keys, and no history."
      :suggest="(summary) => `${summary.name} copy`"
      :send="list.duplicate"
    />
    <DeleteDesign v-model="leaving" :send="list.remove" />
  </main>
</template>

<style scoped>
.designs {
  max-width: 1000px;
  margin: 0 auto;
  padding: 40px 24px;
}
header {
  display: flex;
  gap: 8px;
  align-items: center;
  margin-bottom: 20px;
}
.out {
  margin-left: auto;
}
section {
  padding: 16px;
  margin-bottom: 12px;
  border: 1px solid var(--line);
  border-radius: 3px;
  background: var(--card);
}
.line {
  display: flex;
  gap: 8px;
  align-items: center;
  margin-bottom: 8px;
}
.new {
  display: flex;
  flex: 1;
  gap: 8px;
  justify-content: flex-end;
}
.new .el-input {
  width: 240px;
}
.problem {
  margin-bottom: 12px;
}
.problem ul {
  margin: 0;
  padding-left: 16px;
}
.for-readers {
  position: absolute;
  overflow: hidden;
  width: 1px;
  height: 1px;
  clip-path: inset(50%);
}
</style>
