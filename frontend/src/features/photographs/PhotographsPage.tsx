import { useParams } from "react-router";
import { Heading } from "../../ui/Heading";
import { Page } from "../../ui/Page";
import { Away } from "../../ui/told/Away";
import { NotShown } from "../../ui/told/NotShown";
import { Opening } from "../../ui/told/Opening";
import { usePulse } from "../walk/api";
import { usePhotographs } from "./api";
import { Everything } from "./Everything";

/** All photographs of a job, thing by thing, and room for those of the job as a whole. */
export function PhotographsPage() {
  const { job = "" } = useParams();
  const away = usePulse(job);
  const { all, title, most, isPending, error } = usePhotographs(job);
  if (isPending) return <Opening says="Looking for photographs …" />;
  if (title === undefined) {
    return (
      <NotShown
        what="The photographs cannot be shown"
        error={error}
        to={`/jobs/${job}`}
        way="To the run sheet"
      />
    );
  }
  return (
    <Page
      title={`${title} · photographs`}
      back={[`/jobs/${job}`, "Run sheet"]}
      className="max-w-5xl"
    >
      <Away away={away} />
      <Heading className="text-xl font-bold">Photographs</Heading>
      <p className="mb-2 text-soft">{title}</p>
      <p className="mb-3 text-[13px] text-soft">
        JPEG, PNG or WebP, up to {most} a job. Place, device and time are taken out of each file.
        Photographs of a piece or a step are added on the run sheet, the walk and the work order.
      </p>
      <Everything job={job} shown={all} />
    </Page>
  );
}
