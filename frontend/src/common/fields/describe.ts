// What the three fields share: whose the attributes are, and what a screen reader is told.
import { computed, onMounted, useAttrs, useId, useTemplateRef } from 'vue'

export interface FieldProps {
  label?: string
  hint?: string
  problem?: string
  /** The label is for screen readers only, and stands in the empty field. */
  bare?: boolean
  readonly?: boolean
  disabled?: boolean
}

/** Attributes of the frame and of the box inside; a field that is to have the focus takes it when it appears. */
export function useField(props: FieldProps) {
  const id = useId()
  const attrs = useAttrs()
  const box = useTemplateRef<HTMLElement>('box')
  onMounted(() => {
    if ('autofocus' in attrs && attrs.autofocus !== false) box.value?.focus()
  })
  const frame = computed(() => ({
    id,
    label: props.bare ? undefined : props.label,
    hint: props.hint,
    problem: props.problem,
    class: attrs.class,
    style: attrs.style,
  }))
  const inside = computed(() => {
    return {
      ...Object.fromEntries(Object.entries(attrs).filter(([name]) => !['class', 'style', 'autofocus'].includes(name))),
      id,
      disabled: props.disabled || undefined,
      placeholder: (attrs.placeholder as string | undefined) ?? (props.bare ? props.label : undefined),
      'aria-label': props.bare ? props.label : (attrs['aria-label'] as string | undefined),
      'aria-invalid': props.problem ? ('true' as const) : undefined,
      'aria-describedby': props.problem ? `${id}-problem` : props.hint ? `${id}-hint` : undefined,
    }
  })
  return { box, frame, inside }
}
