<script setup lang="ts">
import { mdiHelpCircleOutline, mdiMenuDown } from '@mdi/js'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { useEngagement } from '../stores/engagement.ts'
import { useSession } from '../stores/session.ts'
import JobRing from './JobRing.vue'
import SearchField from './SearchField.vue'

/** Engagement and place, the search field, jobs, and the help of the page. */
const engagement = useEngagement()
const session = useSession()
const route = useRoute()
const place = computed(() => String(route.meta['title'] ?? ''))
const others = computed(() => (session.view?.engagements ?? []).filter(({ id }) => id !== engagement.id))
const help = computed(() => `/e/${engagement.id}/guide/${String(route.meta['help'] ?? '')}`)
</script>

<template>
  <header class="bar">
    <div class="where">
      <v-menu>
        <template #activator="{ props: menu }">
          <button v-bind="menu" type="button" class="engagement" :title="$t('frame.switchEngagement')">
            <strong>{{ engagement.view?.title }}</strong><v-icon :icon="mdiMenuDown" size="18" />
          </button>
        </template>
        <v-list density="compact">
          <v-list-item v-for="one in others" :key="one.id" :to="`/e/${one.id}/overview`" :title="one.title" />
          <v-list-item to="/?all" :title="$t('frame.allEngagements')" />
        </v-list>
      </v-menu>
      <span class="quiet place" aria-hidden="true">▸</span><span class="place">{{ place }}</span>
    </div>
    <SearchField />
    <div class="work">
      <JobRing />
      <router-link :to="help" class="help" :aria-label="$t('frame.help')" :title="$t('frame.help')"
        ><v-icon :icon="mdiHelpCircleOutline" size="20"
      /></router-link>
    </div>
  </header>
</template>

<style scoped>
.bar {
  height: 48px;
  flex: none;
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(200px, 380px) minmax(0, 1fr);
  align-items: center;
  gap: 16px;
  padding: 0 14px;
  border-bottom: var(--hair);
  background: rgb(var(--v-theme-surface));
}
.where {
  display: flex;
  gap: 8px;
  align-items: center;
  white-space: nowrap;
  overflow: hidden;
  min-width: 0;
}
.engagement {
  display: flex;
  align-items: center;
  min-width: 0;
  min-height: 30px;
  font: inherit;
  color: inherit;
  cursor: pointer;
}
.engagement strong {
  overflow: hidden;
  text-overflow: ellipsis;
  font-weight: 600;
}
.work {
  display: flex;
  justify-content: flex-end;
  align-items: center;
  gap: 8px;
}
.help {
  display: grid;
  place-items: center;
  width: 30px;
  height: 30px;
  color: rgb(var(--v-theme-on-surface));
}
/* At 200 % the title of the page says where one is. */
@media (max-width: 900px) {
  .bar {
    grid-template-columns: minmax(110px, 1fr) minmax(120px, 1fr) auto;
    gap: 10px;
  }
  .place {
    display: none;
  }
}
</style>
