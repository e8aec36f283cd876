import { ref } from 'vue'

/** The ISO weekday a week begins on for the person signed in; calendars in forms use it. */
export const weekStart = ref<1 | 6 | 7>(1)
