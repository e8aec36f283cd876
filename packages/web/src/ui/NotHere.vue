<template>
  <main class="page">
    <h1>Nothing at this address</h1>
    <p><RouterLink to="/cloth">Go to the Cloth</RouterLink></p>
  </main>
</template>
