// The fields of the whole application, known in every template.
import type { App } from 'vue'
import ChoiceField from './ChoiceField.vue'
import TextArea from './TextArea.vue'
import TextField from './TextField.vue'
import TickBox from './TickBox.vue'
import TickList from './TickList.vue'

export const fields = {
  install(app: App) {
    app
      .component('TextField', TextField)
      .component('TextArea', TextArea)
      .component('ChoiceField', ChoiceField)
      .component('TickBox', TickBox)
      .component('TickList', TickList)
  },
}

declare module 'vue' {
  interface GlobalComponents {
    TextField: typeof TextField
    TextArea: typeof TextArea
    ChoiceField: typeof ChoiceField
    TickBox: typeof TickBox
    TickList: typeof TickList
  }
}
