"""The pages of the area."""

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_safe


@require_safe
@login_required
def home(request: HttpRequest) -> HttpResponse:
    return render(request, "{= area =}/home.html")
