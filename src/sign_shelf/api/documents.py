"""Documents of the core in bodies and answers: read and written by the core, described by their own schemas."""

from typing import Annotated

from pydantic import GetCoreSchemaHandler
from pydantic_core import CoreSchema, core_schema

from sign_shelf.core.model.documents import parse_json, read
from sign_shelf.core.model.menu import MenuDocument, Model, Query
from sign_shelf.core.model.template import Template


class _AsDocument:
    """A field that holds a document: what is wrong in it is named by its path there, and it goes out as it is kept.
    A body that is not called JSON comes as it was sent."""

    def __init__(self, what: str) -> None:
        self._what = what

    def __get_pydantic_core_schema__(self, source: type[Model], handler: GetCoreSchemaHandler) -> CoreSchema:
        # Without a schema of what is written, the document's own describes it both ways.
        return core_schema.no_info_before_validator_function(
            lambda value: read(
                source, parse_json(value, what=self._what) if isinstance(value, bytes) else value, what=self._what
            ),
            handler(source),
            serialization=core_schema.plain_serializer_function_ser_schema(source.to_json),
        )


Menu = Annotated[MenuDocument, _AsDocument("menu document")]
Listed = Annotated[Query, _AsDocument("list")]
SiteTemplate = Annotated[Template, _AsDocument("template")]
