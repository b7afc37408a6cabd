"""`make bench`: the pages of the office on years of work, and a table of 2,000 products.

The database is that of `scripts/bench_load`, which seeds it. Products are added to it once. What is
measured is the time to the whole answer, one person after the other.
"""

from __future__ import annotations

import os
import statistics
import time
from typing import Any
from urllib.parse import urlencode

from fastapi.testclient import TestClient

from endurant.demo.laboratory import PASSWORD
from endurant.store.engine import DATABASE_VARIABLE
from endurant.store.server import DatabaseServer
from scripts.bench_load import FIRST_PORT, FOLDER, JOBS, seed_years

PRODUCTS, REPEATS = 2000, 40
PAGES = (
    "/due",
    "/figures",
    "/products",
    "/products?search=cloth+0042",
    "/search?words=J-1",
    "/search?words=cloth+lot",
    "/clients",
    "/nonconformities",
)
TARGET_MS, PREVIEW_TARGET_S = 150, 2.0


def main() -> None:
    """Print a row for each page, and the preview of the table."""
    database = DatabaseServer(FOLDER, FIRST_PORT + 1)
    database.start()
    try:
        os.environ[DATABASE_VARIABLE] = database.create("endurant")
        seed_years(JOBS)
        measure()
    finally:
        database.stop()


def measure() -> None:
    """Read every page often, and preview the table of all products with one change."""
    from endurant.api.app import build_app

    with TestClient(build_app(), headers={"origin": "http://testserver"}) as client:
        login = {"login": "ruben", "password": PASSWORD}
        client.post("/api/session", json=login).raise_for_status()
        _add_products(client)
        print(f"| Page | Median, ms | 95 %, ms | Target, ms |\n{'|---' * 4}|")
        for page in (*PAGES, _longest_trend(client)):
            client.get(f"/api{page}").raise_for_status()
            times = sorted(_took(client, page) for _ in range(REPEATS))
            late = times[int(0.95 * REPEATS)]
            print(f"| {page} | {statistics.median(times):.0f} | {late:.0f} | {TARGET_MS} |")
        table = client.get("/api/products.csv").content.replace(b",25,", b",26,", 1)
        one = b"\n".join(table.splitlines()[:2])  # the process that reads workbooks starts once
        client.post("/api/products/preview", files={"file": ("p.csv", one)}).raise_for_status()
        began = time.perf_counter()
        answer = client.post("/api/products/preview", files={"file": ("p.csv", table)})
        answer.raise_for_status()
        took, rows = time.perf_counter() - began, len(answer.json()["changes"])
        print(f"\npreview of {rows} rows: {took:.1f} s, target {PREVIEW_TARGET_S} s")


def _took(client: TestClient, page: str) -> float:
    began = time.perf_counter()
    client.get(f"/api{page}").raise_for_status()
    return 1000 * (time.perf_counter() - began)


def _longest_trend(client: TestClient) -> str:
    """The chart of the product with most lots."""
    most = client.get("/api/trends/products").json()[0]
    return "/trends?" + urlencode({"client": most["client"], "product": most["product"]})


def _add_products(client: TestClient) -> None:
    """Import as many products as are missing, with one limit each."""
    there: int = client.get("/api/products?limit=1").json()["total"]
    if there >= PRODUCTS:
        return
    header = "client,product,material,method,property,direction,limit"
    rows = [_row(number) for number in range(there, PRODUCTS)]
    table = "\n".join([header, *rows]).encode()
    answer: Any = client.post("/api/products/import", files={"file": ("p.csv", table)})
    answer.raise_for_status()


def _row(number: int) -> str:
    return f"Client {number % 40},Cloth {number:04d},woven,iso-13937-2,tear_force,warp,25"


if __name__ == "__main__":
    main()
