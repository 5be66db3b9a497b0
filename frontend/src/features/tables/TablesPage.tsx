import { useState } from "react";
import { useSearchParams } from "react-router";
import { sentence } from "../../api/client";
import { BarLink, Page } from "../../ui/Page";
import { type Table, useTables } from "./api";
import { CsvIn } from "./CsvIn";
import { RowsTable } from "./RowsTable";

/** The tables that the reckoning rests on: shipped rows with their source, and the workshop's own. */
export function TablesPage() {
  const [words, setWords] = useSearchParams();
  const [search, setSearch] = useState("");
  const tables = useTables();
  const all = tables.data?.tables ?? [];
  const table = all.find((s) => s.id === words.get("table")) ?? all[0];
  const plain = search.trim().toLowerCase();
  const found = (s: Table) =>
    s.rows.filter((row) => Object.values(row.cells).some((c) => c.toLowerCase().includes(plain)));
  return (
    <Page
      title="Tables"
      back={["/", "Jobs"]}
      heading="Tables"
      acts={
        <>
          <BarLink to="/learned">Learned here</BarLink>
          <input
            type="search"
            aria-label="Search all tables"
            placeholder="search all tables"
            value={search}
            onChange={(e) => setSearch(e.target.value)}
            className="min-h-11 w-56 rounded border border-rule bg-plate px-2 lg:min-h-8"
          />
        </>
      }
      className="max-w-none"
    >
      {tables.isError && (
        <p role="alert" className="text-over">
          {sentence(tables.error)}
        </p>
      )}
      {table && (
        <div className="gap-x-6 lg:grid lg:grid-cols-[200px_minmax(0,1fr)]">
          <nav aria-label="Tables" className="mb-3 flex flex-wrap gap-1 lg:flex-col lg:flex-nowrap">
            {all.map((s) => {
              const own = s.rows.filter((row) => row.own).length;
              return (
                <button
                  key={s.id}
                  type="button"
                  aria-current={s.id === table.id ? "page" : undefined}
                  onClick={() => setWords({ table: s.id })}
                  className={`min-h-11 rounded px-2 text-left lg:min-h-8 ${s.id === table.id ? "bg-tint font-bold" : "hover:bg-tint"} ${plain && found(s).length === 0 ? "opacity-45" : ""}`}
                >
                  {s.name}{" "}
                  <span className="num text-[12px] font-normal text-soft">
                    {plain ? found(s).length : own > 0 ? `${own} own` : ""}
                  </span>
                </button>
              );
            })}
          </nav>
          <div className="min-w-0">
            <div className="mb-2 flex flex-wrap items-start gap-x-4 gap-y-1">
              <div className="min-w-0 flex-1">
                <h2 className="text-[15px] font-bold">{table.name}</h2>
                <p className="text-soft">{table.says}</p>
              </div>
              <CsvIn key={table.id} table={table} />
            </div>
            <RowsTable key={table.id} table={table} rows={found(table)} />
          </div>
        </div>
      )}
    </Page>
  );
}
