from django.urls import path

from rapzel.tools import views

app_name = "tools"
urlpatterns = [
    path("tools/", views.index, name="list"),
    path("tools/<slug:slug>/", views.page, name="page"),
    path("tools/<slug:slug>/answer.json", views.as_json, name="json"),
    path("tools/<slug:slug>/ask.json", views.ask_in_json, name="ask"),
    path("tools/<slug:slug>/table.csv", views.as_csv, name="csv"),
    path("tools/<slug:slug>/drawing.svg", views.as_svg, name="svg"),
    path("tools/<slug:slug>/schema.json", views.schema, name="schema"),
    path("tools/<slug:slug>/open/", views.bring_in, name="open"),
    path("scenes/<int:pk>/tools/", views.index, name="scene_index"),
    path("scenes/<int:pk>/tools/<slug:slug>/", views.page, name="for_scene"),
    path("scenes/<int:pk>/tools/<slug:slug>/pin/", views.pin, name="pin"),
    path("scenes/<int:pk>/tools/<slug:slug>/use/", views.use, name="use"),
    path("scenes/<int:pk>/pinned/<slug:result>/remove/", views.unpin, name="unpin"),
]
