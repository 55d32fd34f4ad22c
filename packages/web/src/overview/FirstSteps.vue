<script setup lang="ts">
import { useEngagement } from '../stores/engagement.ts'

/** The first visit of an engagement asks one thing: where its configurations come from. */
const engagement = useEngagement()
</script>

<template>
  <div class="ways">
    <section class="panel way">
      <h2>{{ $t('overview.importFiles') }}</h2>
      <ol>
        <li>{{ $t('overview.importStep1') }}</li>
        <li>{{ $t('overview.importStep2') }}</li>
        <li>{{ $t('overview.importStep3') }}</li>
      </ol>
      <v-btn v-if="engagement.may.import" variant="flat" to="snapshots">{{ $t('overview.importFiles') }}</v-btn>
    </section>
    <section class="panel way">
      <h2>{{ $t('overview.connectToDevices') }}</h2>
      <ol>
        <li>{{ $t('overview.connectStep1') }}</li>
        <li>{{ $t('overview.connectStep2') }}</li>
        <li>{{ $t('overview.connectStep3') }}</li>
      </ol>
      <v-btn v-if="engagement.may.manage" to="set-up">{{ $t('overview.connectToDevices') }}</v-btn>
      <p v-else class="quiet">{{ $t('overview.aLeadConnects') }}</p>
    </section>
  </div>
</template>

<style scoped>
.ways {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(300px, 1fr));
  gap: 16px;
  max-width: 900px;
}
.way {
  padding: 24px 28px;
}
ol {
  padding-left: 20px;
  margin: 12px 0 18px;
}
li {
  margin: 5px 0;
}
</style>
