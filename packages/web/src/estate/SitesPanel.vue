<script setup lang="ts">
import { type SiteRow, listSites, setSite } from '@jurybox/api/labels'
import { computed, reactive, ref } from 'vue'
import { call } from '../api/client.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { useQuery } from '../shared/query.ts'
import { useEngagement } from '../stores/engagement.ts'

/** Sites in sites: what each is called, and which is around it. */
const engagement = useEngagement()
const { data, problem, fields, attempt } = useQuery(listSites, () => ({}))
const sites = computed(() => data.value ?? [])
const form = reactive({ name: '', title: '', around: '' })
const editing = ref(false)
/** Sites deeper than this are drawn at the edge. */
const DEEPEST = 12
/** In the order of the frames, each with how deep it lies and how many devices it holds with all within. */
const tree = computed(() => {
  const rows: { site: SiteRow; depth: number; all: number }[] = []
  const countOf = (name: string, seen: readonly string[]): number =>
    sites.value
      .filter((one) => one.around === name && !seen.includes(one.name))
      .reduce((sum, one) => sum + one.devices + countOf(one.name, [...seen, one.name]), 0)
  const put = (around: string | null, depth: number): void => {
    for (const site of sites.value) {
      if (site.around !== around || depth > DEEPEST) continue
      rows.push({ site, depth, all: site.devices + countOf(site.name, [site.name]) })
      put(site.name, depth + 1)
    }
  }
  put(null, 0)
  // A site around it that nobody described.
  for (const site of sites.value)
    if (!rows.some((row) => row.site === site)) rows.push({ site, depth: 0, all: site.devices })
  return rows
})
function edit(site: SiteRow | null): void {
  Object.assign(form, { name: site?.name ?? '', title: site?.title ?? '', around: site?.around ?? '' })
  editing.value = true
}
async function keep(): Promise<void> {
  if (
    await attempt(() =>
      call(setSite, { body: { name: form.name, title: form.title || form.name, around: form.around || null } }),
    )
  )
    editing.value = false
}
</script>

<template>
  <section class="panel block">
    <div class="head">
      <h2>{{ $t('estate.sites') }}</h2>
      <v-btn v-if="engagement.may.describe && !editing" size="small" @click="edit(null)">{{
        $t('estate.addSite')
      }}</v-btn>
    </div>
    <ProblemNote :text="problem" />
    <form v-if="editing" class="form" @submit.prevent="keep">
      <v-text-field
        v-model="form.name"
        :error-messages="fields['name']"
        :label="$t('estate.nameAsInTheDevices')"
        class="code"
      />
      <v-text-field v-model="form.title" :error-messages="fields['title']" :label="$t('common.title')" />
      <v-select
        v-model="form.around"
        :error-messages="fields['around']"
        :items="sites.filter(({ name }) => name !== form.name).map(({ name, title }) => ({ value: name, title }))"
        :label="$t('estate.parentSite')"
        clearable
        @update:model-value="form.around = $event ?? ''"
      />
      <div>
        <v-btn type="submit" variant="flat" :disabled="!form.name.trim()">{{ $t('common.save') }}</v-btn>
        <v-btn variant="text" @click="editing = false">{{ $t('common.cancel') }}</v-btn>
      </div>
    </form>
    <ul v-if="tree.length > 0" class="tree">
      <li v-for="{ site, depth, all } in tree" :key="site.name" :style="{ paddingLeft: `${depth * 18}px` }">
        <span class="frame" aria-hidden="true" /><button
          v-if="engagement.may.describe"
          type="button"
          class="as-link"
          @click="edit(site)"
        >
          {{ site.title }}</button
        ><span v-else>{{ site.title }}</span
        >{{ ' ' }} <code v-if="site.title !== site.name" class="quiet">{{ site.name }}</code>{{ ' '
        }}<span class="quiet">{{ $t('common.devicesCounted', all) }}</span>
      </li>
    </ul>
    <p v-else class="quiet">{{ $t('estate.noSitesYet') }}</p>
    <p class="quiet">
      {{ $t('estate.inAGroupOrScope') }} <code>{{ $t('estate.shoreInDeviceSites') }}</code>
    </p>
  </section>
</template>

<style scoped>
.block {
  padding: 12px 16px;
  display: grid;
  gap: 8px;
  grid-template-columns: minmax(0, 1fr);
}
.head {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 10px;
}
.form {
  display: grid;
  gap: 10px;
}
.code :deep(input) {
  font-family: var(--mono);
}
.tree {
  list-style: none;
  margin: 0;
  padding: 0;
}
.tree li {
  display: flex;
  gap: 8px;
  align-items: center;
  min-height: 26px;
}
.frame {
  width: 9px;
  height: 9px;
  border: 1.5px solid rgb(var(--v-theme-quiet));
  flex: none;
}
</style>
