import { type DOMWrapper, mount, type VueWrapper } from '@vue/test-utils'
import { type Component } from 'vue'

/** A component on a page of its own, found as a person finds things: by role and name. */
export interface Shown {
  wrapper: VueWrapper
  /** Throws where there is no such button. */
  button: (name: string) => DOMWrapper<Element>
}

const open: VueWrapper[] = []
afterEach(() => {
  for (const wrapper of open.splice(0)) wrapper.unmount()
  document.body.innerHTML = ''
})

export function shown(component: Component, props: Record<string, unknown>): Shown {
  const wrapper = mount(component, {
    props,
    attachTo: document.body,
    global: { stubs: { RouterLink: { template: '<a><slot /></a>' } } },
  }) as VueWrapper
  open.push(wrapper)
  const nameOf = (e: DOMWrapper<Element>): string => e.attributes('aria-label') ?? e.text()
  return {
    wrapper,
    button(name) {
      const found = wrapper.findAll('button').find(b => nameOf(b) === name)
      if (!found)
        throw new Error(`No button “${name}” among ${wrapper.findAll('button').map(nameOf).join(' | ')}`)
      return found
    },
  }
}
