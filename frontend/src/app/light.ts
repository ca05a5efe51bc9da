/** Whether one looks by daylight or in the dark: as the system has it, unless somebody chose. */
export const LIGHTS = ['as the system', 'light', 'dark'] as const
export type Light = (typeof LIGHTS)[number]

const KEY = 'sign-shelf light'

export function chosenLight(): Light {
  const kept = localStorage.getItem(KEY)
  return LIGHTS.find((one) => one === kept) ?? 'as the system'
}

export function chooseLight(light: Light): void {
  if (light === 'as the system') localStorage.removeItem(KEY)
  else localStorage.setItem(KEY, light)
  showLight()
}

export function showLight(): void {
  const light = chosenLight()
  if (light === 'as the system') delete document.documentElement.dataset.light
  else document.documentElement.dataset.light = light
}
