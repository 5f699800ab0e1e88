"""The page, and what happens with what the form brings."""

import logging

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods

from .forms import {= page.pascal =}Form

logger = logging.getLogger(__name__)


@require_http_methods(["GET", "HEAD", "POST"])
def show_form(request: HttpRequest) -> HttpResponse:
    form = {= page.pascal =}Form(request.POST or None)
    if request.method == "POST" and form.is_valid():
        take(form.cleaned_data["heading"], form.cleaned_data["text"])
        messages.success(request, "Thank you.")
        return redirect("{= page =}:form")
    return render(request, "{= page =}/form.html", {"form": form})


def take(heading: str, text: str) -> None:
    """Puts it where people look: into the log."""
    logger.info("%s", heading, extra={"text": text})
