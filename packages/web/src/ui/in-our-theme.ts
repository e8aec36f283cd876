import { type Component, defineAsyncComponent, h } from 'vue'

/**
 * Whatever holds forms, tables, drawers or dialogs is fetched when it is opened, and their library and theme with the
 * first of it: the Cloth, which is opened first, is drawn without.
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
