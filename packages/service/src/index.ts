export { startService, type ServeOptions, type Service } from './serve.ts';
export { SettingsProblem } from './settings/settings.ts';
