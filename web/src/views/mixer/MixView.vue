<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { ElInput } from 'element-plus'
import { TEXTS, mixWords, partProblem, type MixKind } from '@tin-harbor/core/creative'
import { api } from '@/api'
import { useLeaveGuard } from '@/composables/use-leave-guard'
import { savingWords } from '@/composables/use-saving'
import StateNote from '@/parts/StateNote.vue'
import { useSession } from '@/stores/session'
import WorkHead from '@/views/creatives/WorkHead.vue'
import MixAdds from './MixAdds.vue'
import MixMake from './MixMake.vue'
import MixMatrix from './MixMatrix.vue'
import MixPages from './MixPages.vue'
import MixPart from './MixPart.vue'
import { useMix } from './use-mix'

/** The mixer: headlines down, pictures across, a sheet for each text; every cell that is not struck is an ad. */
const route = useRoute()
const session = useSession()
const id = computed(() => Number(route.params.mixId))
const editing = useMix(id)
const { view, mix, files, error, refused, clashes, saving, load, change, add, write, remove, found } = editing
useLeaveGuard(editing)
const mayDraft = computed(() => session.may('draft'))

const COMMON = [
  { key: 'brand', label: 'Brand' },
  { key: 'button', label: 'Button' }
] as const
const textMost = computed(() => TEXTS[mix.value?.kind ?? 'native'].text.most)
/** The sheet in sight: one for each text. */
const sheet = ref('')
const text = computed(() => mix.value?.texts.find(({ key }) => key === sheet.value) ?? mix.value?.texts[0] ?? null)
const isReading = ref(false)
const icons = computed(() =>
  files.value.filter(
    (file) =>
      !file.retired &&
      file.medium === 'picture' &&
      mix.value &&
      partProblem({ kind: mix.value.kind, parts: {} }, 'icon', file.facts) === null
  )
)
</script>

<template>
  <div class="MixView WorkPage">
    <StateNote v-if="error || !mix || !view" :error="error" reads="Reading the matrix" @retry="load" />
    <template v-else>
      <WorkHead
        :advertiser="view.advertiserId"
        what="matrix"
        :name="mix.name"
        :most="60"
        :disabled="!mayDraft"
        stays="The ads that were made of it"
        :remove="() => api.deleteMix(id)"
        @rename="(name) => change((m) => (m.name = name))">
        <p class="WorkHead-sentence" role="status" data-test="mix-words">{{ mixWords(mix) }}</p>
        <span class="quiet small" data-test="mix-saving">{{ savingWords(saving) }}</span>
      </WorkHead>
      <p v-for="message in refused" :key="message" class="trouble small" role="alert">{{ message }}</p>
      <p v-for="clash in clashes" :key="clash.key" class="small MixView-clash" role="status">
        Somebody else wrote “{{ clash.theirs }}” where you wrote “{{ clash.mine }}”; yours stands.
        <button
          class="plain"
          type="button"
          @click="(write(clash.axis, clash.key, { said: clash.theirs }), (clashes = clashes.filter((one) => one !== clash)))">
          Take theirs
        </button>
      </p>

      <section v-if="mayDraft" class="MixView-common" aria-label="What all ads have in common">
        <label
          >Of
          <select
            :value="mix.kind"
            aria-label="Kind of ad"
            @change="change((m) => (m.kind = ($event.target as HTMLSelectElement).value as MixKind))">
            <option value="native">native ads</option>
            <option value="notification">notifications</option>
          </select></label
        >
        <template v-if="mix.kind === 'native'">
          <label v-for="{ key, label } in COMMON" :key="key"
            >{{ label }}
            <ElInput
              :model-value="mix.common[key]"
              size="small"
              @update:model-value="(said: string) => change((m) => (m.common[key] = said))" />
            <em v-for="one in found('common', key)" :key="one.says" class="trouble small">{{ one.says }}</em></label
          >
        </template>
        <label
          >Icon
          <select
            :value="mix.common.icon"
            data-test="mix-icon"
            @change="change((m) => (m.common.icon = ($event.target as HTMLSelectElement).value))">
            <option value="">{{ icons.length > 0 ? 'none yet' : 'no file of the library fits; one can be cut for it' }}</option>
            <option v-for="file in icons" :key="file.id" :value="`sha256:${file.sha256}`">{{ file.name }}</option>
          </select>
          <em v-for="one in found('common', 'icon')" :key="one.says" class="trouble small">{{ one.says }}</em></label
        >
      </section>

      <MixPages v-if="isReading && mayDraft" :editing="editing" @close="isReading = false" />
      <div class="MixView-sheets" role="group" aria-label="Texts, a sheet each">
        <div v-for="(one, n) in mix.texts" :key="one.key" class="MixView-text" :class="{ 'is-open': one.key === text?.key }">
          <button
            v-if="mix.texts.length > 1"
            class="plain small"
            type="button"
            :aria-pressed="one.key === text?.key"
            @click="sheet = one.key">
            {{ one.key === text?.key ? 'this sheet' : 'see its sheet' }}
          </button>
          <MixPart
            :part="one"
            :place="n + 1"
            what="Text"
            :most="textMost"
            :most-long="null"
            :findings="found('texts', one.key)"
            :disabled="!mayDraft"
            @write="write('texts', one.key, $event)"
            @remove="remove('texts', one.key)" />
        </div>
        <MixAdds v-if="mayDraft" axis="texts" label="Texts" @add="add('texts', $event)" />
        <button
          v-if="mayDraft"
          class="plain small"
          type="button"
          :aria-expanded="isReading"
          data-test="from-pages"
          @click="isReading = !isReading">
          Parts from pages …
        </button>
      </div>

      <MixMatrix :editing="editing" :text="text" :disabled="!mayDraft" />
      <MixMake v-if="mayDraft" :key="id" :editing="editing" />
    </template>
  </div>
</template>

<style>
.MixView-common,
.MixView-sheets {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 22px;
  align-items: flex-start;
  padding: 6px 0;
}

.MixView-common label {
  display: flex;
  gap: 6px;
  align-items: baseline;
}

.MixView-common .el-input {
  width: 190px;
}

.MixView-text {
  width: 270px;
  padding-left: 8px;
  border-left: 2px solid var(--rule-2);
}

.MixView-text.is-open {
  border-left-color: var(--brass);
}

.MixView-clash {
  padding-left: 8px;
  border-left: 3px solid var(--brass);
}
</style>
