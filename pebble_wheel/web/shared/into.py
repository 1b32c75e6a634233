"""A tag of the templates for one part of an answer: htmx puts it where it belongs on the page."""

from jinja2 import nodes
from jinja2.ext import Extension
from jinja2.parser import Parser


class Into(Extension):
    """``{% into id %}…{% endinto %}``: what stands between goes into the element of that id.

    ``{% into id controls %}``: where it holds controls it is changed only where it differs, so that the control in use
    stays itself.
    """

    tags = {"into"}  # noqa: RUF012

    def parse(self, parser: Parser) -> list[nodes.Node]:
        """Return what stands between, within a part of an answer."""
        line = next(parser.stream).lineno
        target = parser.parse_expression()
        swap = "innerMorph" if parser.stream.skip_if("name:controls") else "innerHTML"
        within = parser.parse_statements(("name:endinto",), drop_needle=True)
        begin, close = nodes.TemplateData('<hx-partial hx-target="#'), nodes.TemplateData(f'" hx-swap="{swap}">')
        end = nodes.Output([nodes.TemplateData("</hx-partial>\n")], lineno=line)
        return [nodes.Output([begin, target, close], lineno=line), *within, end]
