"""What a reading request looks up once, it looks up anew for the next."""

from django.http import HttpRequest, HttpResponse

from practice.once import once, remember


def test_a_reading_request_looks_up_once_and_a_writing_one_every_time() -> None:
    asked: list[int] = []

    @once
    def found(x: int) -> int:
        asked.append(x)
        return x * x

    def respond(request: HttpRequest) -> HttpResponse:
        return HttpResponse(f"{found(3)} {found(3)} {found(4)}")

    def answered(method: str) -> list[int]:
        request = HttpRequest()
        request.method = method
        asked.clear()
        assert remember(respond)(request).content == b"9 9 16"
        return list(asked)

    assert answered("GET") == [3, 4]
    assert answered("GET") == [3, 4]
    # What is written may change what is found.
    assert answered("POST") == [3, 3, 4]
    asked.clear()
    assert [found(3), found(3)] == [9, 9]
    assert asked == [3, 3]
