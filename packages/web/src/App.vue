<script setup lang="ts">
import { watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { onPasswordNeeded } from './api/client.ts'
import ConfirmDialog from './frame/ConfirmDialog.vue'
import ConfirmIdentity from './frame/ConfirmIdentity.vue'
import { useSession } from './stores/session.ts'

const session = useSession()
const route = useRoute()
const router = useRouter()

onPasswordNeeded(() => void router.push('/new-password'))

// A session that ends leads to the sign-in page, and back to the same place after it.
watch(
  () => session.signedIn,
  (signedIn) => {
    if (!signedIn && session.asked && !route.meta['open'])
      void router.push({ path: '/sign-in', query: { to: route.fullPath } })
  },
)
</script>

<template>
  <v-app><router-view /><ConfirmIdentity /><ConfirmDialog /></v-app>
</template>
