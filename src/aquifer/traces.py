"""Where the time of a request goes, told to a collector of the operator's: OpenTelemetry, where an address is named.

What is told is what the log holds too: of a customer nothing, no query of an address, no value of a query.
"""

from django.http import HttpRequest, HttpResponse
from opentelemetry.exporter.otlp.proto.http.trace_exporter import OTLPSpanExporter
from opentelemetry.instrumentation.django import DjangoInstrumentor
from opentelemetry.instrumentation.psycopg import PsycopgInstrumentor
from opentelemetry.sdk.resources import SERVICE_NAME, Resource
from opentelemetry.sdk.trace import Span, SpanProcessor, TracerProvider
from opentelemetry.sdk.trace.export import BatchSpanProcessor

from aquifer.logs import path_told

_ADDRESSES = ("http.url", "http.target", "url.full", "url.path", "url.query")


def begin(service: str, to: str, processor: SpanProcessor | None = None) -> TracerProvider:
    """Tell from now on. To be called in the process that does the work: what sends is a thread of its own.

    Parameters: service, what this process is; to, the collector's address; processor, another that takes the spans.
    """
    provider = TracerProvider(resource=Resource.create({SERVICE_NAME: service}))
    provider.add_span_processor(processor or BatchSpanProcessor(OTLPSpanExporter(endpoint=f"{to}/v1/traces")))
    DjangoInstrumentor().instrument(tracer_provider=provider, request_hook=_said, response_hook=_numbered)
    PsycopgInstrumentor().instrument(tracer_provider=provider, enable_commenter=False)
    return provider


def _said(span: Span, request: HttpRequest) -> None:
    """Over what was taken of an address before: the path alone, and of one that lets its holder in not that."""
    if not span.is_recording():
        return
    path = path_told(request.path)
    for name in _ADDRESSES:
        if span.attributes and name in span.attributes:
            span.set_attribute(name, "" if name == "url.query" else path)


def _numbered(span: Span, request: HttpRequest, response: HttpResponse) -> None:
    """By its number a request is found in the log."""
    if span.is_recording() and response.has_header("X-Request-Id"):
        span.set_attribute("aquifer.request", response["X-Request-Id"])


def end() -> None:
    """Tell no more."""
    DjangoInstrumentor().uninstrument()
    PsycopgInstrumentor().uninstrument()
