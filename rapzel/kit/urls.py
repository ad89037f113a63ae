from django.urls import path

from rapzel.kit import compare_views, views

app_name = "kit"
urlpatterns = [
    path("", views.kit_list, name="list"),
    path("starter/", views.starter, name="starter"),
    path("import/", views.bring_in, name="import"),
    path("kit.json", views.export_json, name="json"),
    path("kit.schema.json", views.schema, name="schema"),
    path("compare/", compare_views.compare, name="compare"),
    path("compare.csv", compare_views.compare_csv, name="compare_csv"),
    path("strobes/<int:pk>/work-out/", compare_views.work_out, name="work_out"),
    path("strobes/<int:pk>/take-over/", compare_views.take_over, name="take_over"),
    path("strobes/<int:pk>/undo-table/", views.undo_table, name="undo_table"),
    path("strobes/<int:pk>/row/", views.set_row, name="set_row"),
    path("strobes/<int:pk>/new-row/", views.new_row, name="new_row"),
    path("figures/<int:pk>/undo/", views.undo_figures, name="undo_figures"),
    path("<slug:slug>.csv", views.export_csv, name="csv"),
    path("<slug:slug>/add/", views.add, name="add"),
    path("<slug:slug>/<int:pk>/", views.edit, name="edit"),
    path("<slug:slug>/<int:pk>/remove/", views.remove, name="remove"),
    path("<slug:slug>/<int:pk>/take-back/", views.take_back, name="take_back"),
]
