<script setup lang="ts">
import { openEngagement } from '@jurybox/api/engagements'
import { onMounted, reactive, ref } from 'vue'
import { useRouter } from 'vue-router'
import { call } from '../api/client.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import { vFocus } from '../shared/focus.ts'
import { useSession } from '../stores/session.ts'
import SignInLayout from './SignInLayout.vue'

const session = useSession()
const router = useRouter()
const { problem, fields, attempt } = useAttempt()
const adding = ref(false)
const form = reactive({ title: '', client: '' })

// With one engagement there is nothing to choose.
onMounted(() => {
  const own = session.view?.engagements ?? []
  // Whoever asked for all of them sees all.
  if (router.currentRoute.value.query['all'] !== undefined) return
  if (own.length === 1 && own[0] && router.options.history.state['back'] !== `/e/${own[0].id}`) {
    if (!String(router.options.history.state['back'] ?? '').startsWith('/e/'))
      void router.replace(`/e/${own[0].id}/overview`)
  }
})

const add = () =>
  attempt(async () => {
    const { id } = await call(openEngagement, { body: form })
    await session.ask()
    await router.push(`/e/${id}/overview`)
  })
</script>

<template>
  <SignInLayout>
    <h1>{{ $t('common.engagements') }}</h1>
    <ul class="list">
      <li v-for="engagement in session.view?.engagements" :key="engagement.id">
        <router-link :to="`/e/${engagement.id}/overview`">{{ engagement.title }}</router-link>
        <span class="quiet"> · {{ engagement.role }}</span>
      </li>
    </ul>
    <p v-if="!session.view?.mayOpen && session.view?.engagements.length === 0" class="quiet">
      {{ $t('signIn.youAreNotAMember', { session: session.view?.user.name }) }}
    </p>
    <v-btn v-if="!adding && session.view?.mayOpen" @click="adding = true">{{ $t('signIn.openEngagement') }}</v-btn>
    <form v-else-if="adding" @submit.prevent="add">
      <v-text-field
        v-model="form.title"
        :error-messages="fields['title']"
        v-focus
        :label="$t('common.title')"
        required
      />
      <v-text-field v-model="form.client" :error-messages="fields['client']" :label="$t('signIn.client')" />
      <ProblemNote :text="problem" />
      <v-btn type="submit" variant="flat">{{ $t('signIn.openEngagement') }}</v-btn>
    </form>
  </SignInLayout>
</template>

<style scoped>
.list {
  list-style: none;
  padding: 0;
  margin: 0 0 16px;
}
.list li {
  padding: 6px 0;
  border-bottom: var(--hair);
}
</style>
