<script setup lang="ts">
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import EmptyPage from '../shared/EmptyPage.vue'

/** An address that leads nowhere, with the ways back. */
const route = useRoute()
const router = useRouter()
const home = computed(() =>
  typeof route.params['engagement'] === 'string' ? `/e/${route.params['engagement']}/overview` : '/',
)
</script>

<template>
  <div class="page">
    <EmptyPage whole :title="$t('help.pageNotFound')" :text="$t('help.noPageAt', { path: route.path })">
      <v-btn variant="flat" :to="home">{{ home === '/' ? $t('help.goToEngagements') : $t('help.goToOverview') }}</v-btn>
      <v-btn @click="router.back()">{{ $t('help.goBack') }}</v-btn>
    </EmptyPage>
  </div>
</template>
