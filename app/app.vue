<template>
  <UApp :toaster="{ position: 'bottom-right', duration: 6000 }">
    <NuxtPage />
  </UApp>
</template>
