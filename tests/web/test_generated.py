"""What is generated from the models is what is committed."""

from sqlalchemy import inspect
from tools.api import OPENAPI, SCHEMA, WORDS, openapi_text, words_text
from tools.reference import REFERENCE, reference_text

from noble_clay.store.database import migrate, open_database
from noble_clay.store.tables import Base
from noble_clay.web.catalogue import schema_text


def test_the_openapi_document_is_current():
    assert OPENAPI.read_text(encoding="utf-8") == openapi_text(), "run: .venv/bin/python -m tools.api"


def test_the_published_schema_is_current():
    assert SCHEMA.read_text(encoding="utf-8") == schema_text(), "run: .venv/bin/python -m tools.api"


def test_the_reference_is_current():
    assert REFERENCE.read_text(encoding="utf-8") == reference_text(), "run: .venv/bin/python -m tools.api"


def test_the_words_of_the_page_are_those_of_the_reports():
    assert WORDS.read_text(encoding="utf-8") == words_text(), "run: .venv/bin/python -m tools.api"


def test_the_migrations_make_the_tables_that_the_models_describe():
    engine = open_database()
    migrate(engine)
    found = inspect(engine)
    for table in Base.metadata.sorted_tables:
        columns = {c["name"]: c["nullable"] for c in found.get_columns(table.name)}
        assert columns == {c.name: c.nullable for c in table.columns}
