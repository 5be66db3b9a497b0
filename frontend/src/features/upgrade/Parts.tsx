import type { Candidate } from "./api";

/** What it takes: parts, prices, minutes, and all together. */
export function Parts({
  parts,
  price,
  minutes,
}: {
  parts: Candidate["parts"];
  price: string;
  minutes: string;
}) {
  return (
    <table className="w-full">
      <caption className="text-left font-bold">What it takes</caption>
      <thead className="text-left text-[13px] text-soft">
        <tr>
          <th className="font-normal">Part</th>
          <th className="px-2 text-right font-normal">Amount</th>
          <th className="px-2 text-right font-normal">Price</th>
          <th className="text-right font-normal">Minutes</th>
        </tr>
      </thead>
      <tbody>
        {parts.map((p) => (
          <tr key={p.what} className="border-t border-line align-top">
            <td className="py-0.5">{p.what}</td>
            <td className="num whitespace-nowrap px-2 text-right">{p.amount}</td>
            <td className="num px-2 text-right">{p.price}</td>
            <td className="num text-right">{p.minutes}</td>
          </tr>
        ))}
        <tr className="border-t border-rule font-bold">
          <td className="py-0.5">together</td>
          <td />
          <td className="num px-2 text-right">{price}</td>
          <td className="num text-right">{minutes}</td>
        </tr>
      </tbody>
    </table>
  );
}
