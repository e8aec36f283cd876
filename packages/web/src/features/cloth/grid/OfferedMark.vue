<script setup lang="ts">
import { computed } from 'vue'
import { minuteWords } from '../../../ui/telling.ts'
import type { OfferedSpan } from '../offers/use-offering.ts'
import { shareOf } from '../drag/row-landing.ts'

/** Time that is offered to guests: between two brackets, behind what is there. */
const props = defineProps<{ span: OfferedSpan; axis: { from: number; to: number } }>()
const seen = computed(() => ({
  from: Math.max(props.span.from, props.axis.from),
  to: Math.min(props.span.to, props.axis.to),
}))
const place = computed(() => ({
  left: shareOf(seen.value.from - props.axis.from, props.axis),
  width: shareOf(seen.value.to - seen.value.from, props.axis),
}))
const words = computed(
  () =>
    `${props.span.people.length > 0 ? 'A common time' : props.span.isDraft ? 'To be offered' : 'Offered to guests'}: ${props.span.title}, ${minuteWords(props.span.from)}–${minuteWords(props.span.to % 1440)}`,
)
</script>

<template>
  <span
    v-if="seen.to > seen.from"
    class="offered"
    :class="{ draft: span.isDraft }"
    role="img"
    :aria-label="words"
    :title="words"
    :style="place"
  />
</template>

<style scoped>
.offered {
  position: absolute;
  inset-block: 3px;
  box-sizing: border-box;
  pointer-events: none;
  color: var(--moss);
  background:
    linear-gradient(currentcolor, currentcolor) left top / 7px 2px no-repeat,
    linear-gradient(currentcolor, currentcolor) left bottom / 7px 2px no-repeat,
    linear-gradient(currentcolor, currentcolor) right top / 7px 2px no-repeat,
    linear-gradient(currentcolor, currentcolor) right bottom / 7px 2px no-repeat,
    color-mix(in srgb, var(--moss) 9%, transparent);
  border-inline: 2px solid currentcolor;
}
.draft {
  border-inline-style: dashed;
}
</style>
