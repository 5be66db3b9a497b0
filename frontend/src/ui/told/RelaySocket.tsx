interface Hole {
  hole: string;
  out: string;
  fitted: string;
}

/** Where each hole lies on the common layout, seen into the socket; in units of the picture. */
const PLACES: Record<string, { x: number; y: number; flat: boolean }> = {
  "30": { x: 75, y: 112, flat: true },
  "85": { x: 118, y: 66, flat: false },
  "86": { x: 32, y: 66, flat: false },
  "87a": { x: 75, y: 66, flat: true },
  "87": { x: 75, y: 24, flat: true },
};

/** The socket of a relay, and what each hole should read with it out and in. */
export function RelaySocket({ socket }: { socket: Hole[] }) {
  return (
    <>
      <div className="flex flex-wrap items-start gap-4">
        <svg
          role="img"
          aria-label="Relay socket seen from the wire side of the relay: 87 on top, 86 and 85 to the sides, 30 below"
          viewBox="0 0 150 136"
          width={132}
          className="shrink-0"
        >
          <rect x={3} y={3} width={144} height={130} rx={8} fill="none" className="stroke-rule" />
          {socket.map((hole) => {
            const place = PLACES[hole.hole];
            if (!place) return null;
            const [w, h] = place.flat ? [34, 10] : [10, 34];
            return (
              <g key={hole.hole}>
                <rect
                  x={place.x - w / 2}
                  y={place.y - h / 2}
                  width={w}
                  height={h}
                  rx={2}
                  className="fill-tint stroke-ink"
                />
                <text
                  x={place.x}
                  y={place.flat ? place.y + 17 : place.y + 30}
                  fontSize="12"
                  textAnchor="middle"
                  className="fill-ink font-bold"
                >
                  {hole.hole}
                </text>
              </g>
            );
          })}
        </svg>
        <table className="min-w-0 flex-1 basis-60">
          <thead className="text-left text-[13px] text-soft">
            <tr>
              <th className="font-normal">Hole</th>
              <th className="px-2 font-normal">Relay out</th>
              <th className="font-normal">Relay in</th>
            </tr>
          </thead>
          <tbody>
            {socket.map((hole) => (
              <tr key={hole.hole} className="border-t border-line align-top">
                <td className="num py-0.5 font-bold">{hole.hole}</td>
                <td className="px-2">{hole.out}</td>
                <td>{hole.fitted}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <p className="mt-1 text-[13px] text-soft">
        Layouts differ: go by the marks on the relay. To run the load without it, join 30 and 87
        with a fused lead only.
      </p>
    </>
  );
}
