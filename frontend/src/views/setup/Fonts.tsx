import { useMutation, useQuery } from '@tanstack/react-query'
import { answered, client } from '../../api/client'
import { useAnew } from '../../api/keys'
import { fontsQuery } from '../../api/queries'
import { Told } from '../../parts/Told'

/** The families that bars are drawn and measured in; the agency's own are added here. */
export function Fonts({ editable }: { editable: boolean }) {
  const anew = useAnew()
  const fonts = useQuery(fontsQuery)
  const upload = useMutation({
    mutationFn: (file: File) =>
      answered(
        client.POST('/api/fonts', {
          body: file as never,
          bodySerializer: (body: unknown) => body as Blob,
          headers: { 'content-type': 'application/octet-stream' },
        }),
      ),
    onSuccess: () => anew.setup(),
  })
  return (
    <section aria-label="Fonts">
      <h2>Fonts</h2>
      <Told error={fonts.error ?? upload.error} />
      <ul>
        {fonts.data?.map((one) => (
          <li key={one.family} className="flex items-baseline justify-between border-t border-hair py-1">
            {one.family}
            <span className="text-note text-ink-2">
              {one.own && 'our own · '}
              {one.lightest === one.heaviest ? one.lightest : `${one.lightest}–${one.heaviest}`}
            </span>
          </li>
        ))}
      </ul>
      {editable && (
        <label className="mt-2 block border-t border-hair pt-2 text-small text-ink-2">
          Add a font of our own (OpenType, TrueType or WOFF2, at most 4 MB)
          <input
            type="file"
            accept=".otf,.ttf,.woff2"
            className="mt-1 block w-full text-small"
            onChange={(event) => {
              const file = event.target.files?.[0]
              if (file) upload.mutate(file)
              event.target.value = ''
            }}
          />
        </label>
      )}
      {upload.data && <p className="mt-1 text-small">Added {upload.data.family}.</p>}
    </section>
  )
}
