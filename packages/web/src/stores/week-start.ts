import { ref } from 'vue'

/** The ISO weekday a week begins on for whoever is signed in, so that calendars in forms begin with it. */
export const weekStart = ref<1 | 6 | 7>(1)
