<script setup lang="ts">
/**
 * What the program is for, in one picture: a strip is lifted from one session, carried over and set down in another, and
 * every setting is ticked off. It moves once; who wants no motion sees it as it ends.
 */
const LINES = [22, 52, 82];
const DEVICES = [
  { x: 30, curve: 'M4 14c6 0 6-8 12-8s8 6 14 6' },
  { x: 68, curve: 'M4 18 16 8h14' },
  { x: 106, curve: 'M4 12h6v-4h6v8h6v-6h8' },
];
</script>

<template>
  <svg
    viewBox="0 0 520 120"
    class="w-full"
    role="img"
    aria-label="A strip of three devices is carried from one session into another; every setting arrives"
  >
    <g v-for="left in [0, 300]" :key="left" :transform="`translate(${left} 0)`">
      <rect x="1" y="4" width="216" height="110" rx="6" class="session" />
      <g v-for="y in LINES" :key="y">
        <line x1="12" x2="206" :y1="y + 11" :y2="y + 11" class="thread" />
        <rect x="10" :y="y" width="5" height="22" rx="2" class="colour" />
      </g>
    </g>
    <path d="M170 63C220 20 280 20 330 63" class="way" />
    <g v-for="place in ['stays', 'carried']" :key="place" :class="place">
      <g v-for="d in DEVICES" :key="d.x" :transform="`translate(${d.x} 0)`">
        <rect width="34" height="22" rx="4" class="device" />
        <path :d="d.curve" class="curve" />
      </g>
    </g>
    <g v-for="(d, i) in DEVICES" :key="d.x" class="tick" :style="{ animationDelay: `${2.1 + 0.25 * i}s` }">
      <path :d="`M${311 + d.x + 24} 45l4 4 8-9`" />
    </g>
  </svg>
</template>

<style scoped>
.session {
  fill: var(--sheet);
  stroke: var(--edge);
}
.thread,
.way {
  fill: none;
  stroke: var(--rule);
  stroke-width: 2;
}
.way {
  stroke: var(--rope);
  stroke-dasharray: 2 5;
  stroke-linecap: round;
}
.colour {
  fill: var(--rope);
}
.device {
  fill: var(--paper);
  stroke: var(--ink);
  stroke-width: 1.5;
}
.curve {
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.3;
}
.stays {
  transform: translate(0, 52px);
}
.carried {
  animation: carry 2s ease-in-out both;
  transform: translate(300px, 52px);
}
.tick path {
  fill: none;
  stroke: var(--good);
  stroke-width: 3;
}
.tick {
  animation: appear 0.3s both;
}
@keyframes carry {
  from {
    transform: translate(0, 52px);
  }
  45% {
    transform: translate(150px, 8px);
  }
  to {
    transform: translate(300px, 52px);
  }
}
@keyframes appear {
  from {
    opacity: 0;
  }
}
@media (prefers-reduced-motion: reduce) {
  .carried,
  .tick {
    animation: none;
  }
}
</style>
