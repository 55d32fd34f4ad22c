<script setup lang="ts">
import { mdiChevronDoubleLeft, mdiChevronDoubleRight, mdiCogOutline, mdiLogout } from '@mdi/js'
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { PAGES } from '../pages.ts'
import { grouped } from '../shared/numbers.ts'
import { useEngagement } from '../stores/engagement.ts'
import { useSession } from '../stores/session.ts'

/** The stages in the order of the work, each with what waits there. */
const engagement = useEngagement()
const session = useSession()
const route = useRoute()
const folded = ref(localStorage.getItem('rail') === 'folded' || window.innerWidth < 1000)
/** The only count is that of open findings: one kind of thing. */
const findings = computed(() => engagement.view?.waiting.verdicts ?? 0)
const stages = PAGES.flatMap(({ path, title, icon }) => (icon === undefined ? [] : [{ path, title, icon }]))
const base = computed(() => `/e/${String(route.params['engagement'])}`)
const isAt = (path: string): boolean => route.path.startsWith(`${base.value}/${path}`)

function fold(): void {
  folded.value = !folded.value
  localStorage.setItem('rail', folded.value ? 'folded' : 'open')
}
</script>

<template>
  <nav class="rail" :class="{ folded }" :aria-label="$t('frame.mainNavigation')">
    <router-link to="/" class="name" :aria-label="$t('frame.juryBoxAllEngagements')"
      ><img src="/mark.svg" width="26" height="26" alt="" /><span v-if="!folded">{{
        $t('frame.juryBox')
      }}</span></router-link
    >
    <ol>
      <li v-for="stage in stages" :key="stage.path">
        <router-link
          :to="`${base}/${stage.path}`"
          class="stage"
          :class="{ here: isAt(stage.path) }"
          :aria-current="isAt(stage.path) ? 'page' : undefined"
          :title="folded ? stage.title : undefined"
        >
          <v-icon :icon="stage.icon" size="18" />
          <span :class="{ sr: folded }" class="title">{{ stage.title }}</span>
          <span
            v-if="stage.path === 'verdicts' && findings > 0"
            class="count"
            :class="{ sr: folded }"
            :title="$t('frame.openFindings', { count: grouped(findings) })"
            >{{ grouped(findings) }}<span class="sr">{{ ' ' }}{{ $t('frame.ofOpenFindings') }}</span></span
          >
        </router-link>
      </li>
    </ol>
    <div class="foot">
      <router-link
        :to="`${base}/settings`"
        class="stage"
        :class="{ here: isAt('settings') }"
        :title="folded ? $t('frame.settings') : undefined"
        ><v-icon :icon="mdiCogOutline" size="18" /><span :class="{ sr: folded }" class="title">{{
          $t('frame.settings')
        }}</span></router-link
      >
      <button
        type="button"
        class="stage"
        :title="$t('frame.signedInAsSignOut', { session: session.view?.user.fullName })"
        @click="session.signOut()"
      >
        <v-icon :icon="mdiLogout" size="18" /><span :class="{ sr: folded }" class="title"
          >{{ session.view?.user.fullName }}<span class="sr">{{ $t('frame.signOut') }}</span></span
        >
      </button>
      <button type="button" class="stage" :aria-expanded="!folded" @click="fold">
        <v-icon :icon="folded ? mdiChevronDoubleRight : mdiChevronDoubleLeft" size="18" /><span
          :class="{ sr: folded }"
          class="title"
          >{{ $t('frame.collapse') }}</span
        >
      </button>
    </div>
  </nav>
</template>

<style scoped>
.rail {
  width: 168px;
  flex: none;
  display: flex;
  flex-direction: column;
  border-right: var(--hair);
  background: rgb(var(--v-theme-surface));
  overflow-y: auto;
}
.folded {
  width: 56px;
}
.name {
  display: flex;
  align-items: center;
  gap: 9px;
  height: 48px;
  padding: 0 14px;
  font-family: var(--serif);
  font-weight: 600;
  font-size: 17px;
  color: rgb(var(--v-theme-on-surface));
  text-decoration: none;
  border-bottom: var(--hair);
  flex: none;
}
ol {
  list-style: none;
  padding: 10px 0;
  margin: 0;
  flex: 1;
}
.stage {
  display: flex;
  align-items: center;
  gap: 10px;
  width: 100%;
  min-height: 34px;
  padding: 0 14px 0 15px;
  color: rgb(var(--v-theme-on-surface));
  text-decoration: none;
  font: inherit;
  text-align: left;
  border-left: 3px solid transparent;
  cursor: pointer;
}
.stage:hover {
  background: rgb(var(--v-theme-background));
}
.here {
  border-left-color: rgb(var(--v-theme-primary));
  font-weight: 600;
  color: rgb(var(--v-theme-primary));
}
.title {
  flex: 1;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.count {
  color: rgb(var(--v-theme-quiet));
  font-weight: 400;
  font-size: 12.5px;
}
.foot {
  border-top: var(--hair);
  padding: 6px 0;
}
</style>
