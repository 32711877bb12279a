"""An application that reads what it is sent, for a server of its own."""


def app(environ, start_response):
    body = environ["wsgi.input"].read(int(environ.get("CONTENT_LENGTH") or 0))
    start_response("200 OK", [("Content-Length", str(len(str(len(body)))))])
    return [str(len(body)).encode()]
