"""The form of the page."""

from django import forms


class {= page.pascal =}Form(forms.Form):
    heading = forms.CharField(max_length=120)
    text = forms.CharField(max_length=10_000, widget=forms.Textarea)
