import { Modal } from 'ant-design-vue'
import { useEventListener } from '@vueuse/core'
import { onBeforeRouteLeave } from 'vue-router'
import { useSession } from './session.ts'

/** Asks before a page with unsaved changes is left. `lost`: the sentence that says what would be lost. */
export function useUnsaved(dirty: () => boolean, lost: string): void {
  const session = useSession()
  onBeforeRouteLeave(() => {
    if (!dirty() || session.expired) return true
    return new Promise<boolean>(resolve =>
      Modal.confirm({
        title: 'Leave without saving?',
        content: lost,
        okText: 'Leave',
        cancelText: 'Stay here',
        onOk: () => resolve(true),
        onCancel: () => resolve(false),
      }),
    )
  })
  const warn = (event: BeforeUnloadEvent): void => {
    if (dirty()) event.preventDefault()
  }
  useEventListener('beforeunload', warn)
}
