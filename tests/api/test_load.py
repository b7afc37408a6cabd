"""Many people at once: everybody is answered, and what is changed meanwhile is seen by all."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

from tests.laboratory import Bench, sample

PEOPLE, ROUNDS = 8, 3
LOGINS = ("ines", "maren", "greta", "pelle")


def test_twenty_looks_at_once_are_all_answered_while_jobs_come_in(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    people = [bench.as_(login) for login in LOGINS]
    paths = [
        "/jobs",
        "/jobs?search=cloth",
        "/jobs/waiting",
        f"/jobs/{job['id']}",
        f"/jobs/{job['id']}/sheet",
        f"/jobs/{job['id']}/draft",
        "/clocks",
        "/conditioning",
    ]

    def look(number: int) -> list[int]:
        person = people[number % len(people)]
        return [
            person.call("GET", paths[(number + step) % len(paths)]).status_code
            for step in range(ROUNDS * len(paths))
        ]

    def receive(number: int) -> str:
        return str(bench.post("/jobs", sample(product=f"Cloth {number}"))["number"])

    with ThreadPoolExecutor(PEOPLE + 2) as crowd:
        looks = [crowd.submit(look, number) for number in range(PEOPLE)]
        came = [crowd.submit(receive, number) for number in range(6)]
        numbers = {future.result() for future in came}
        statuses = [status for future in looks for status in future.result()]
    assert set(statuses) == {200}
    assert len(statuses) == PEOPLE * ROUNDS * len(paths)
    listed = {line["number"] for line in bench.get("/jobs")["jobs"]}
    assert numbers <= listed
    assert len(numbers) == 6
