"""The form of a notice."""

from django.forms import ModelForm

from .models import Notice


class NoticeForm(ModelForm[Notice]):
    class Meta:
        model = Notice
        fields = ["heading", "text"]
