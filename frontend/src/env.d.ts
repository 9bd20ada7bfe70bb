/// <reference types="vite/client" />
declare module '@fontsource-variable/*'
declare module '*.css'
