<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import type { Side } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import { compareHeard } from './heard'
import { useMatch } from './useMatch'

/** A page for two people on the telephone: one reads the fingerprint, the other types what is heard. */
const route = useRoute()
const session = useOpenDesign()
const tunnelId = computed(() => String(route.params.tunnelId ?? ''))
const { tunnel, match } = useMatch(session, tunnelId)
const side = ref<Side>('left')
const heard = ref('')

const ends = computed(() =>
  (['left', 'right'] as const).map((which) => ({
    side: which,
    name: match.value?.[`${which}_name`] ?? '',
    words: match.value?.[`${which}_spoken`] ?? '',
    key: tunnel.value?.[which].key ?? null,
  })),
)
const mine = computed(() => ends.value.find((end) => end.side === side.value))
const compared = computed(() => compareHeard(mine.value?.key?.fingerprint ?? '', heard.value))
</script>

<template>
  <section v-if="tunnel && match" class="page">
    <p>
      <RouterLink :to="{ name: 'match', params: { designId: session.designId.value, tunnelId } }"
        >Back to {{ tunnel.name }}</RouterLink
      >
    </p>
    <h2>Do both have the same key?</h2>
    <p class="muted">
      Read the words aloud, one by one; the key itself is never read. The words come from a slow hash of the
      key, so whoever listens in learns nothing of use. Somebody without this design gets the words of a key
      with
      <code>pontifex fingerprint --salt {{ session.design.value?.key_salt }}</code
      >, which asks for the key.
    </p>
    <p class="question">
      <span id="which-end">Which end is yours?</span>
      <ElRadioGroup v-model="side" aria-labelledby="which-end">
        <ElRadio v-for="end in ends" :key="end.side" :value="end.side">{{ end.name }}</ElRadio>
      </ElRadioGroup>
    </p>
    <template v-if="mine?.key">
      <h3>Read this aloud</h3>
      <p class="words">
        <span v-for="(word, at) in mine.words.split(' ')" :key="at"
          ><b class="figures">{{ mine.key.fingerprint[at] }}</b> {{ word }}</span
        >
      </p>
      <label>
        Then type what the other end reads, as words or letters
        <ElInput v-model="heard" class="figures" size="large" spellcheck="false" autocomplete="off" />
      </label>
      <p class="verdict" :class="compared.state" role="status">{{ compared.sentence }}</p>
    </template>
    <p v-else>No key is known at {{ mine?.name }} yet.</p>
  </section>
</template>

<style scoped>
.page {
  max-width: 640px;
  padding: 16px;
}
.question {
  display: flex;
  gap: 16px;
  align-items: center;
  margin: 12px 0;
}
.words {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin-bottom: 12px;
  font-size: 18px;
}
.words span {
  padding: 6px 10px;
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 3px;
}
h2,
h3 {
  margin: 8px 0;
}
.verdict {
  font-size: 15px;
  font-weight: 500;
}
.same {
  color: var(--verdigris);
}
.different {
  color: var(--madder);
}
</style>
