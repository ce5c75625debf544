/** Ctrl-Z and Ctrl-Shift-Z (or Ctrl-Y) undo and redo, except while text is typed. */
import { useEventListener } from '@vueuse/core'
import type { DesignSession } from '@/design/useDesignSession'

export function useUndoKeys(session: DesignSession): void {
  useEventListener(document, 'keydown', (event: KeyboardEvent) => {
    const typing = (event.target as HTMLElement).closest('input, textarea, select')
    if (!(event.ctrlKey || event.metaKey) || typing) return
    const key = event.key.toLowerCase()
    const redo = key === 'y' || (key === 'z' && event.shiftKey)
    if (key !== 'z' && !redo) return
    event.preventDefault()
    void (redo ? session.redo() : session.undo())
  })
}
