<template>
  <div class="NowhereView">
    <h1>There is nothing at this address.</h1>
    <p><RouterLink :to="{ name: 'campaigns' }">Campaigns</RouterLink> or <RouterLink :to="{ name: 'market' }">Market</RouterLink></p>
  </div>
</template>

<style>
.NowhereView {
  padding: 60px;
  font-family: var(--serif);
}

.NowhereView h1 {
  font-size: 20px;
}
</style>
