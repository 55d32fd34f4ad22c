<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { api, wordsOf } from '../api/client.ts'
import type { OpenSession } from '../api/types.ts'
import AgeText from '../shared/AgeText.vue'
import ProblemNote from '../shared/ProblemNote.vue'

const sessions = ref<OpenSession[]>([])
const problem = ref('')

async function load(): Promise<void> {
  problem.value = ''
  try {
    sessions.value = await api.get<OpenSession[]>('/sessions')
  } catch (error) {
    problem.value = wordsOf(error)
  }
}
async function endOthers(): Promise<void> {
  try {
    await api.delete('/sessions')
    await load()
  } catch (error) {
    problem.value = wordsOf(error)
  }
}
onMounted(load)

/** The name of a browser and its system, as far as it says them. */
function browserOf(agent: string): string {
  const program =
    /(Firefox|Edg|Chrome|Safari)\/\d+/.exec(agent)?.[0].replace('Edg', 'Edge').replace('/', ' ') ??
    agent.split(' ')[0] ??
    ''
  const system = /Windows|Mac OS X|Android|Linux|iPhone/.exec(agent)?.[0]
  return [program === '' ? 'unknown browser' : program, system].filter(Boolean).join(' on ')
}
</script>

<template>
  <div class="sessions">
    <h2>Sessions</h2>
    <table class="rows">
      <thead>
        <tr>
          <th scope="col">Browser</th>
          <th scope="col">Address</th>
          <th scope="col">Last seen</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in sessions" :key="one.id">
          <td>{{ browserOf(one.agent) }}<span v-if="one.isThis" class="quiet"> · this one</span></td>
          <td class="mono">{{ one.address }}</td>
          <td><AgeText :at="one.seenAt" /></td>
        </tr>
      </tbody>
    </table>
    <p class="quiet">A session ends after 8 hours without use, and 24 hours after it began.</p>
    <ProblemNote :text="problem" />
    <v-btn :disabled="sessions.length < 2" @click="endOthers">Sign out everywhere else</v-btn>
  </div>
</template>

<style scoped>
.sessions {
  display: grid;
  gap: 8px;
  justify-items: start;
}
table {
  width: 100%;
}
</style>
