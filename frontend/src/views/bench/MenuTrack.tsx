import { useQuery } from '@tanstack/react-query'
import { useNavigate } from '@tanstack/react-router'
import { memo } from 'react'
import type { Schemas } from '../../api/client'
import { timelineQuery } from '../../api/queries'
import { useLens } from '../../lens/useLens'
import { TimeTrack } from '../../parts/TimeTrack'
import { useSettled } from '../../parts/useSettled'

const SETTLES_MS = 1_500

/** The menu's place through the coming year, as a lath below the strip. */
export const MenuTrack = memo(function MenuTrack(props: { bench: Schemas['BenchPage']; hash: string }) {
  const { bench, hash } = props
  const { at, device, ...others } = useLens()
  const navigate = useNavigate()
  const settled = useSettled(hash, SETTLES_MS)
  const place = bench.places.find((one) => one.device === device) ?? bench.places[0]
  const timeline = useQuery(
    timelineQuery(bench.site.key, { ...others, device: 'desktop' }, 366, settled),
  ).data
  const line = timeline?.places.find((one) => one.location === place?.location && one.device === place.device)
  return (
    <div className="col-span-full flex h-5 items-center border-b border-hair bg-paper-2 px-[18px]">
      {timeline && line && (
        <TimeTrack
          timeline={timeline}
          line={line}
          at={at}
          onMoment={(moment) =>
            navigate({ to: '.', search: (before: object) => ({ ...before, at: moment }) })
          }
        />
      )}
    </div>
  )
})
