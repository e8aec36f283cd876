import { type Component, defineAsyncComponent, h } from 'vue'

/**
 * Loads forms, tables, drawers and dialogs when they are opened, and their library and theme with the first of
 * them. The Cloth, which opens first, is drawn without.
 */

type Loaded = { default: Component }

/** For a route. */
export const inOurTheme = (load: () => Promise<Loaded>) => async (): Promise<Component> => {
  const [theme, part] = await Promise.all([import('./InOurTheme.vue'), load()])
  return {
    inheritAttrs: false,
    setup:
      (_, { attrs, slots }) =>
      () =>
        h(theme.default, null, { default: () => h(part.default, attrs, slots) }),
  }
}

/** For a part of a screen. */
export const partInOurTheme = <T extends Component>(load: () => Promise<{ default: T }>): T =>
  defineAsyncComponent(inOurTheme(load)) as T
