import { useQuery } from '@tanstack/react-query'
import { keptMailQuery } from '../../api/queries'
import { Empty } from '../../parts/Empty'
import { when } from '../../parts/times'

/** Letters that the demo's own mail server kept, which hands nothing on. Where mail is sent in earnest there is no such thing. */
export function KeptMail() {
  const kept = useQuery(keptMailQuery).data
  if (!kept) return null
  return (
    <section aria-labelledby="kept-mail" className="mt-6">
      <h2 id="kept-mail">Mail that was sent</h2>
      <p className="text-note text-ink-2">To a mail server that keeps it and hands nothing on.</p>
      {kept.length === 0 && <Empty says="None yet. Whatever stops a release is told at once." />}
      <ul className="max-h-[420px] overflow-y-auto">
        {kept.map((one) => (
          <li key={one.id} className="border-t border-hair py-1 text-small">
            <details>
              <summary className="cursor-pointer">
                <span className="font-semibold">{one.subject}</span>
                <span className="block text-note text-ink-2">
                  {when(one.at)} · {one.to}
                </span>
              </summary>
              <pre className="my-1 max-h-[300px] overflow-auto border-l-4 border-wood bg-plate px-3 py-2 font-[inherit] whitespace-pre-wrap">
                {one.text}
              </pre>
            </details>
          </li>
        ))}
      </ul>
    </section>
  )
}
