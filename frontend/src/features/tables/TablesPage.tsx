import { ArrowLeft } from "lucide-react";
import { useEffect, useState } from "react";
import { Link, useSearchParams } from "react-router";
import { sentence } from "../../api/client";
import { ThemeButton } from "../../ui/ThemeButton";
import { type Table, useTables } from "./api";
import { CsvIn } from "./CsvIn";
import { RowsTable } from "./RowsTable";

/** The tables that the reckoning rests on: shipped rows with their source, and the workshop's own. */
export function TablesPage() {
  const [words, setWords] = useSearchParams();
  const [search, setSearch] = useState("");
  const tables = useTables();
  useEffect(() => {
    document.title = "Tables";
  }, []);
  const all = tables.data?.tables ?? [];
  const table = all.find((s) => s.id === words.get("table")) ?? all[0];
  const plain = search.trim().toLowerCase();
  const found = (s: Table) =>
    s.rows.filter((row) => Object.values(row.cells).some((c) => c.toLowerCase().includes(plain)));
  return (
    <div className="min-h-full">
      <header className="flex flex-wrap items-center gap-3 border-b border-line bg-rail px-3 py-1 sm:px-5">
        <Link to="/" className="inline-flex min-h-11 items-center gap-1 text-slate">
          <ArrowLeft size={15} aria-hidden /> Jobs
        </Link>
        <h1 className="text-lg font-bold">Tables</h1>
        <Link
          to="/learned"
          className="inline-flex min-h-11 items-center font-bold text-slate underline lg:min-h-8"
        >
          Learned here
        </Link>
        <input
          type="search"
          aria-label="Search all tables"
          placeholder="search all tables"
          value={search}
          onChange={(e) => setSearch(e.target.value)}
          className="ml-auto min-h-11 w-56 rounded border border-rule bg-plate px-2 lg:min-h-8"
        />
        <ThemeButton />
      </header>
      {tables.isError && (
        <p role="alert" className="p-5 text-over">
          {sentence(tables.error)}
        </p>
      )}
      {table && (
        <div className="gap-x-6 px-3 py-3 sm:px-5 lg:grid lg:grid-cols-[200px_minmax(0,1fr)]">
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
          <main className="min-w-0">
            <div className="mb-2 flex flex-wrap items-start gap-x-4 gap-y-1">
              <div className="min-w-0 flex-1">
                <h2 className="text-[15px] font-bold">{table.name}</h2>
                <p className="text-soft">{table.says}</p>
              </div>
              <CsvIn key={table.id} table={table} />
            </div>
            <RowsTable key={table.id} table={table} rows={found(table)} />
          </main>
        </div>
      )}
    </div>
  );
}
