<script setup lang="ts">
/** What stands before the sign-in: the name, what it is, and a form. */
</script>

<template>
  <main class="door">
    <section class="words">
      <img src="/mark.svg" width="44" height="44" alt="" />
      <p class="big">{{ $t('signIn.juryBox') }}</p>
      <p class="motto">{{ $t('signIn.networkSecurityAuditsWithEvidence') }}</p>
      <ol aria-hidden="true" class="sample mono">
        <li><span>118</span>line vty 0 4</li>
        <li class="exhibit"><span>119</span> {{ $t('signIn.transportInputTelnetSsh') }}</li>
        <li><span>120</span> {{ $t('signIn.execTimeout100') }}</li>
      </ol>
    </section>
    <section class="form panel"><slot /></section>
  </main>
</template>

<style scoped>
.door {
  min-height: 100vh;
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(300px, 380px);
  gap: 64px;
  align-items: center;
  max-width: 960px;
  margin: 0 auto;
  padding: 32px;
}
.big {
  font-family: var(--serif);
  font-weight: 600;
  font-size: 44px;
  line-height: 1.1;
  margin-top: 14px;
}
.motto {
  font-family: var(--serif);
  font-size: 18px;
  margin: 8px 0 28px;
}
.sample {
  list-style: none;
  padding: 8px 0;
  margin: 0;
  border-top: var(--hair);
  border-bottom: var(--hair);
  white-space: pre;
  max-width: 360px;
}
.sample li {
  padding: 1px 8px;
  border-left: 4px solid transparent;
}
.sample span {
  color: rgb(var(--v-theme-quiet));
  margin-right: 14px;
}
.exhibit span {
  color: rgb(var(--v-theme-on-surface));
}
.exhibit {
  background: rgb(var(--v-theme-brass-fill));
  border-left-color: rgb(var(--v-theme-brass)) !important;
}
.form {
  padding: 28px;
}
.form :deep(h1) {
  margin-bottom: 16px;
}
.form :deep(form) {
  display: grid;
  gap: 12px;
}
@media (max-width: 760px) {
  .door {
    grid-template-columns: 1fr;
    gap: 20px;
    align-items: start;
  }
  .sample {
    display: none;
  }
}
</style>
