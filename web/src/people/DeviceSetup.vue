<script setup lang="ts">
import { useOpenDesign } from '@/design/useDesignSession'
import { useProvisioning } from './usePeople'

/** Where devices fetch their profiles: what somebody who sets one up must know. */
const { data: info } = useProvisioning(useOpenDesign())
</script>

<template>
  <section v-if="info" class="setup" aria-label="For whoever sets a device up">
    <h3>For whoever sets a device up</h3>
    <p>
      It fetches its profile at <span class="figures">{{ info.address }}/profiles</span> with its own token,
      over TLS. The certificate there: <span class="figures">{{ info.fingerprint }}</span>. Files are JSON,
      signed (RFC 7515) by the key <span class="figures">{{ info.key.x }}</span>.
    </p>
  </section>
</template>

<style scoped>
.setup {
  margin-top: 12px;
  font-size: 12px;
  color: var(--muted);
}
.figures {
  overflow-wrap: anywhere;
}
</style>
