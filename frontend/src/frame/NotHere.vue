<template>
  <main class="pad">
    <h1 class="read">There is nothing at this address</h1>
    <p class="soft">It may have been mistyped. <router-link to="/">Your reviews</router-link> are here.</p>
  </main>
</template>
