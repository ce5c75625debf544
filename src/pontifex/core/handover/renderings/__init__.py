"""A gateway's part of the design in open forms: the standards' data models as JSON (RFC 7951), and templates of one's own."""

from pontifex.core.handover.renderings.ike_model import ike_model
from pontifex.core.handover.renderings.routing_model import routing_model
from pontifex.core.handover.renderings.template import TemplateRefused, render_template, template_variables

__all__ = ["TemplateRefused", "ike_model", "render_template", "routing_model", "template_variables"]
