<script setup lang="ts">
import LoomMark from '../../ui/LoomMark.vue'

/** What everybody sees who is not signed in: the weave beside a form. */
defineProps<{ title: string; wide?: boolean }>()
</script>

<template>
  <main class="door">
    <section class="words">
      <div class="brand"><LoomMark :size="40" /> Amber Loom</div>
      <p class="line">
        Tasks and calendars from everywhere, woven into one cloth and kept in step both ways.
      </p>
      <svg class="weave" viewBox="0 0 480 150" aria-hidden="true">
        <g v-for="(y, r) in [10, 45, 80, 115]" :key="y">
          <rect x="0" :y="y" width="480" height="26" fill="#fffdf9" opacity=".05" />
          <template
            v-for="(b, i) in [
              [
                [20, 70],
                [150, 110],
                [340, 60],
              ],
              [
                [60, 120],
                [230, 50],
                [300, 120],
              ],
              [
                [10, 50],
                [120, 150],
                [380, 80],
              ],
              [
                [90, 60],
                [200, 90],
                [330, 70],
              ],
            ][r]"
            :key="i"
          >
            <rect :x="b[0]" :y="y" :width="b[1]" height="26" rx="2" fill="#fffdf9" opacity=".14" />
            <rect
              :x="b[0]"
              :y="y"
              width="5"
              height="26"
              :fill="['#93b96c', '#5fb0bb', '#b48acb', '#e8a33d'][(r + i) % 4]"
            />
          </template>
        </g>
        <path d="M212 0V150" stroke="#e8a33d" stroke-width="2" />
        <path d="M207 0h10l-5 6z" fill="#e8a33d" />
      </svg>
    </section>
    <section class="form" :class="{ wide }" aria-labelledby="entry">
      <h1 id="entry">{{ title }}</h1>
      <slot />
    </section>
  </main>
</template>

<style scoped>
.door {
  min-height: 100%;
  display: grid;
  grid-template-columns: minmax(0, 1.15fr) minmax(0, 1fr);
}
.words {
  background: #2b211a;
  color: #f7f2e8;
  padding: 64px;
  display: flex;
  flex-direction: column;
  justify-content: center;
  gap: 20px;
}
.brand {
  display: flex;
  align-items: center;
  gap: 14px;
  font:
    700 30px 'Bricolage Grotesque Variable',
    sans-serif;
}
.line {
  font-size: 18px;
  max-width: 26em;
  color: #e2d8ca;
}
.weave {
  width: 100%;
  max-width: 520px;
  margin-top: 16px;
}
.form {
  align-self: center;
  justify-self: center;
  width: min(360px, 100% - 32px);
  padding: 24px 0;
}
h1 {
  margin-bottom: 20px;
}
.wide {
  width: min(480px, 100% - 32px);
}
@media (max-width: 760px) {
  .door {
    grid-template-columns: 1fr;
    align-content: start;
  }
  .words {
    padding: 28px 20px;
  }
  .weave {
    display: none;
  }
}
</style>
