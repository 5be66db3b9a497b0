import { pictureAt, type Shown, useWaitingPicture } from "./api";
import { OnSheet } from "./OnSheet";

/** A photograph in small: pressed, it is shown large; what is written under it, whether it goes on the sheet. */
export function Thumb({
  job,
  shown: { photograph, waits },
  name,
  ticks,
  onOpen,
}: {
  job: string;
  shown: Shown;
  name: string;
  ticks: boolean;
  onOpen: () => void;
}) {
  const here = useWaitingPicture(waits ? photograph.id : null);
  const src = waits ? here : pictureAt(job, photograph.id, "small");
  const says = [name, photograph.note].filter(Boolean).join(": ");
  return (
    <figure className="max-w-full">
      <button
        type="button"
        onClick={onOpen}
        aria-label={`Show large: ${says}`}
        className="block max-w-full overflow-hidden rounded border border-rule bg-tint"
      >
        {src && (
          <img
            src={src}
            alt=""
            loading="lazy"
            decoding="async"
            className="h-28 w-auto max-w-full object-cover"
            // Its place is kept before it is there: nothing below moves.
            style={{ aspectRatio: `${photograph.width_px} / ${photograph.height_px}` }}
          />
        )}
      </button>
      <figcaption className="max-w-40 text-[13px] text-soft">
        {waits && <span className="text-ochre">waits on this device</span>}
        {photograph.note && <span className="line-clamp-2">{photograph.note}</span>}
        {ticks && !waits && (
          <OnSheet
            job={job}
            photograph={photograph}
            note={photograph.note}
            label={`${says}: on the sheet`}
          >
            on the sheet
          </OnSheet>
        )}
      </figcaption>
    </figure>
  );
}
