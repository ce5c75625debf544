<script setup lang="ts">
import { ref } from 'vue'
import type { CloudAccount } from '@/api/types'
import { useDoing } from '@/design/useDoing'
import DataTable, { type TableColumn } from '@/ui/DataTable.vue'
import { dateAndTime } from '@/ui/words'
import AccountForm from './AccountForm.vue'
import type { CloudActs, NewCloudAccount } from './useClouds'

/** The accounts of the design's clouds: how each is reached, and when it was read. */
defineProps<{ accounts: readonly CloudAccount[]; acts: CloudActs }>()
const { trouble, isBusy, doing } = useDoing()
const opened = ref('')
const COLUMNS: readonly TableColumn[] = [
  { name: 'account', title: 'Account', minWidth: 140 },
  { name: 'network_ids', title: 'Networks', minWidth: 140 },
  { name: 'address', title: 'Reached at', minWidth: 150, figures: true },
  { name: 'read_at', title: 'Read', minWidth: 170 },
  { name: 'acts', title: '', minWidth: 230 },
]
</script>

<template>
  <section class="accounts" aria-label="Accounts">
    <p v-if="trouble" class="field-error" role="alert">{{ trouble }}</p>
    <DataTable
      :rows="accounts"
      :columns="COLUMNS"
      label="Accounts"
      empty="No cloud network names an account yet: add one in Tables."
    >
      <template #network_ids="{ row }">{{ row.network_ids.join(', ') }}</template>
      <template #address="{ row }">{{ row.address || 'not from here' }}</template>
      <template #read_at="{ row }">{{
        row.read_at ? `${dateAndTime(row.read_at)}, ${row.read_by}` : 'not yet'
      }}</template>
      <template #acts="{ row }">
        <ElButton
          size="small"
          :disabled="isBusy || !row.address"
          :aria-label="`Read ${row.account}`"
          @click="doing(() => acts.read([row.account]))"
          >Read</ElButton
        >
        <ElButton
          size="small"
          :aria-label="`${row.address ? 'Change how' : 'Say how'} ${row.account} is reached`"
          @click="opened = opened === row.account ? '' : row.account"
          >{{ row.address ? 'Change how' : 'Say how' }}</ElButton
        >
      </template>
    </DataTable>
    <AccountForm
      v-if="opened"
      :key="opened"
      :account="accounts.find((account) => account.account === opened)!"
      :shown-by="acts.shownBy"
      :busy="isBusy"
      @keep="(way: NewCloudAccount) => doing(() => acts.keep(way)).then((kept) => kept && (opened = ''))"
      @forget="doing(() => acts.forget(opened)).then((gone) => gone && (opened = ''))"
      @close="opened = ''"
    />
  </section>
</template>

<style scoped>
.accounts .el-button + .el-button {
  margin-left: 6px;
}
.accounts {
  padding: 10px 16px;
}
</style>
