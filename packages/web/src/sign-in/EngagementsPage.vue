<script setup lang="ts">
import { onMounted, reactive, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, wordsOf } from '../api/client.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { vFocus } from '../shared/focus.ts'
import { useSession } from '../stores/session.ts'
import SignInLayout from './SignInLayout.vue'

const session = useSession()
const router = useRouter()
const problem = ref('')
const adding = ref(false)
const form = reactive({ title: '', client: '' })

// With one engagement there is nothing to choose.
onMounted(() => {
  const own = session.view?.engagements ?? []
  if (own.length === 1 && own[0] && router.options.history.state['back'] !== `/e/${own[0].id}`) {
    if (!String(router.options.history.state['back'] ?? '').startsWith('/e/'))
      void router.replace(`/e/${own[0].id}/overview`)
  }
})

async function add(): Promise<void> {
  problem.value = ''
  try {
    const { id } = await api.post<{ id: number }>('/engagements', form)
    await session.ask()
    await router.push(`/e/${id}/snapshots`)
  } catch (error) {
    problem.value = wordsOf(error)
  }
}
</script>

<template>
  <SignInLayout>
    <h1>Engagements</h1>
    <ul class="list">
      <li v-for="engagement in session.view?.engagements" :key="engagement.id">
        <router-link :to="`/e/${engagement.id}/overview`">{{ engagement.title }}</router-link>
        <span class="quiet"> · {{ engagement.role }}</span>
      </li>
    </ul>
    <p v-if="!session.view?.mayOpen && session.view?.engagements.length === 0" class="quiet">
      You are not a member of any engagement yet. A lead adds you by your sign-in name, {{ session.view?.user.name }}.
    </p>
    <v-btn v-if="!adding && session.view?.mayOpen" @click="adding = true">Open an engagement</v-btn>
    <form v-else-if="adding" @submit.prevent="add">
      <v-text-field v-model="form.title" v-focus label="Title" required />
      <v-text-field v-model="form.client" label="Client" />
      <ProblemNote :text="problem" />
      <v-btn type="submit" variant="flat">Open it</v-btn>
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
