<template>
  <svg class="mark" viewBox="0 0 32 32" width="22" height="22" aria-hidden="true">
    <path d="M3 25V23A12 12 0 0 1 14.5 11V16A7 7 0 0 0 8 23V25Z" fill="var(--verdigris)" />
    <path d="M29 25V23A12 12 0 0 0 17.5 11V16A7 7 0 0 1 24 23V25Z" fill="var(--ochre)" />
    <rect x="2" y="26" width="28" height="2" fill="var(--muted)" />
  </svg>
</template>
