from django.urls import path

from rapzel.kit import views

app_name = "kit"
urlpatterns = [
    path("", views.kit_list, name="list"),
    path("starter/", views.starter, name="starter"),
    path("import/", views.bring_in, name="import"),
    path("kit.json", views.export_json, name="json"),
    path("kit.schema.json", views.schema, name="schema"),
    path("strobes/<int:pk>/undo-table/", views.undo_table, name="undo_table"),
    path("<slug:slug>.csv", views.export_csv, name="csv"),
    path("<slug:slug>/add/", views.add, name="add"),
    path("<slug:slug>/<int:pk>/", views.edit, name="edit"),
    path("<slug:slug>/<int:pk>/remove/", views.remove, name="remove"),
    path("<slug:slug>/<int:pk>/take-back/", views.take_back, name="take_back"),
]
