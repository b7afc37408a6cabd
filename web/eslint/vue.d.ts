/** What ESLint takes a component for; vue-tsc reads the file itself. */
declare module '*.vue' {
  import type { DefineComponent } from 'vue'
  const component: DefineComponent
  export default component
}
