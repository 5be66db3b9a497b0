"""The proof of a repair: how it stands, and signing it."""

from dataclasses import fields

from flask import Response

from spare_margin.exchange.reports.lists import before_after_csv
from spare_margin.service.job.session import JobSession
from spare_margin.service.proof.handing_over import hand_over
from spare_margin.service.proof.proof_sheet import proof_sheet
from spare_margin.service.proof.repairing import default_run
from spare_margin.service.proof.signing import sign
from spare_margin.service.records.photographs import for_sheet
from spare_margin.web.common.area import area
from spare_margin.web.common.context import JobPath, connection, open_job, the_workshop
from spare_margin.web.common.downloads import attached
from spare_margin.web.common.models import Point

from .models import ProofOfJob, ProofOut, ProofQuery, Sign, SignedOut

proof_api = area("proof", __name__, "/api/v1/jobs/<string:job>", "proof")


@proof_api.get("/proof", responses={200: ProofOut})
def read_proof(path: JobPath, query: ProofQuery) -> dict[str, object]:
    """The proof of a run as far as it was read."""
    session = open_job(path.job)
    return _out(session, query.run or default_run(session)).out()


def _out(session: JobSession, run: str) -> ProofOut:
    sheet, job = proof_sheet(session, run), session.job
    runs = session.judging("as_left").runs
    return ProofOut(
        ProofOfJob(
            **{each.name: getattr(sheet, each.name) for each in fields(sheet)},
            job=job.id,
            title=job.title,
            customer=job.customer,
            craft_name=job.craft_name,
            runs=tuple(Point(id=k, name=r.load.name, access="open") for k, r in runs.items()),
        )
    )


@proof_api.get("/hand-over.pdf")
def hand_over_sheet(path: JobPath, query: ProofQuery) -> Response:
    """The hand-over sheet of a run as PDF."""
    session = open_job(path.job)
    run = query.run or default_run(session)
    # Only who prints waits for what draws pages to load.
    from spare_margin.exchange.reports.hand_over import hand_over_pdf  # noqa: PLC0415

    photographs = for_sheet(connection(), session, run)
    made = hand_over_pdf(hand_over(session, run, the_workshop().settings, photographs))
    return attached(made, f"hand-over-{run}.pdf", "application/pdf")


@proof_api.get("/proof.csv")
def proof_csv(path: JobPath, query: ProofQuery) -> Response:
    """Before and after of a run as CSV (RFC 4180), safe against formulas."""
    session = open_job(path.job)
    run = query.run or default_run(session)
    text = before_after_csv(proof_sheet(session, run))
    return attached(text.encode(), f"proof-{run}.csv", "text/csv; charset=utf-8")


@proof_api.post("/sign", responses={200: SignedOut})
def sign_proof(path: JobPath, body: Sign) -> dict[str, object]:
    """Sign the proof of a run as it stands. Sent twice it is kept once."""
    made = sign(
        connection(), open_job(path.job), body.id, body.run, body.revision, body.role, body.name,
        body.strokes,
    )  # fmt: skip
    return SignedOut(made).out()
