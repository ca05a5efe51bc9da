import { useQuery } from '@tanstack/react-query'
import { useNavigate, useParams } from '@tanstack/react-router'
import { DropdownMenu } from 'radix-ui'
import { siteQuery } from '../api/queries'
import { DEVICES, type Lens, languageName, spoken } from './lens'
import { useLens } from './useLens'

/** The lens is a sentence; its underlined words can be chosen. */
export function LensStrip() {
  const lens = useLens()
  const navigate = useNavigate()
  const { site } = useParams({ strict: false }) as { site?: string }
  const languages = useQuery({ ...siteQuery(site ?? ''), enabled: site !== undefined }).data?.languages ?? []
  const look = (change: Partial<Lens>) =>
    navigate({ to: '.', search: (before: object) => ({ ...before, ...change }) })
  const language = spoken(languages, lens)[0]
  return (
    <header className="flex items-center gap-[7px] border-b border-hair bg-paper px-[18px] whitespace-nowrap text-ink-2">
      As a visitor on a
      <Word
        name="Device"
        value={lens.device}
        options={DEVICES.map((one) => ({ value: one, says: one }))}
        onChoose={(device) => look({ device: DEVICES.find((one) => one === device) })}
      />
      {language && languages.length > 1 && (
        <>
          in
          <Word
            name="Language"
            value={language}
            options={languages.map((one) => ({ value: one, says: languageName(one) }))}
            onChoose={(chosen) => look({ language: chosen })}
          />
        </>
      )}
      , now
    </header>
  )
}

interface WordProps {
  name: string
  value: string
  options: readonly { value: string; says: string }[]
  onChoose: (value: string) => void
}

function Word({ name, value, options, onChoose }: WordProps) {
  const says = options.find((one) => one.value === value)?.says ?? value
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className="chosen px-px" aria-label={`${name}: ${says}`}>
        {says}
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="start"
          sideOffset={6}
          className="z-40 rounded-sign border border-ink bg-plate p-1 shadow-lg"
        >
          <DropdownMenu.RadioGroup value={value} onValueChange={onChoose}>
            {options.map((one) => (
              <DropdownMenu.RadioItem
                key={one.value}
                value={one.value}
                className="cursor-pointer rounded-xs px-3 py-1 outline-none data-[highlighted]:bg-dusk-ground data-[state=checked]:font-bold"
              >
                {one.says}
              </DropdownMenu.RadioItem>
            ))}
          </DropdownMenu.RadioGroup>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}
