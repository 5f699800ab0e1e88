"""The pages of notices."""

from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.core.exceptions import PermissionDenied
from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_http_methods, require_safe

from .forms import NoticeForm
from .models import Notice

ON_A_PAGE = 20


def written_by_me(request: HttpRequest, notice_id: int) -> Notice:
    """The notice, for those who wrote it or may change all."""
    notice = get_object_or_404(Notice, pk=notice_id)
    if notice.written_by_id != request.user.pk and not request.user.has_perm(
        "notices.change_notice"
    ):
        raise PermissionDenied
    return notice


@require_safe
def show_all(request: HttpRequest) -> HttpResponse:
    notices = Paginator(Notice.objects.select_related("written_by"), ON_A_PAGE)
    page = notices.get_page(request.GET.get("page"))
    return render(request, "notices/all.html", {"page": page})


@require_safe
def show_one(request: HttpRequest, notice_id: int) -> HttpResponse:
    notice = get_object_or_404(Notice.objects.select_related("written_by"), pk=notice_id)
    return render(request, "notices/one.html", {"notice": notice})


@require_http_methods(["GET", "HEAD", "POST"])
@login_required
def write(request: HttpRequest) -> HttpResponse:
    assert request.user.is_authenticated
    return edit(request, Notice(written_by=request.user), "Write a notice")


@require_http_methods(["GET", "HEAD", "POST"])
@login_required
def change(request: HttpRequest, notice_id: int) -> HttpResponse:
    return edit(request, written_by_me(request, notice_id), "Change the notice")


def edit(request: HttpRequest, notice: Notice, heading: str) -> HttpResponse:
    """Shows the form, and keeps what it brings."""
    form = NoticeForm(request.POST or None, instance=notice)
    if request.method == "POST" and form.is_valid():
        notice = form.save()
        messages.success(request, "The notice is saved.")
        return redirect(notice)
    return render(request, "notices/edit.html", {"form": form, "heading": heading})


@require_http_methods(["GET", "HEAD", "POST"])
@login_required
def remove(request: HttpRequest, notice_id: int) -> HttpResponse:
    notice = written_by_me(request, notice_id)
    if request.method == "POST":
        notice.delete()
        messages.success(request, "The notice is removed.")
        return redirect("notices:all")
    return render(request, "notices/remove.html", {"notice": notice})
