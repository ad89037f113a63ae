from django.urls import path, re_path

from rapzel.workbench.views import cutouts, inputs, scenes, sheets, shoots

app_name = "workbench"
urlpatterns = [
    path("shoots/", shoots.shoot_list, name="shoots"),
    path("shoots/add/", shoots.add, name="shoot_add"),
    path("shoots/<int:pk>/", shoots.page, name="shoot"),
    path("shoots/<int:pk>/add-scene/", shoots.add_scene, name="add_scene"),
    path("shoots/<int:pk>/import/", shoots.bring_in, name="shoot_import"),
    path("shoots/<int:pk>/shoot.json", shoots.export_json, name="shoot_json"),
    path("shoots/<int:pk>/remove/", shoots.remove, name="shoot_remove"),
    path("shoots/<int:pk>/take-back/", shoots.take_back, name="shoot_back"),
    path("scenes/<int:pk>/", scenes.page, name="scene"),
    path("scenes/<int:pk>/answer/", scenes.answer, name="answer"),
    path("scenes/<int:pk>/mend/", scenes.mend, name="mend"),
    path("scenes/<int:pk>/pairs/", scenes.pairs, name="pairs"),
    path("scenes/<int:pk>/set/", inputs.set_value, name="set"),
    path("scenes/<int:pk>/step/", inputs.step_value, name="step"),
    path("scenes/<int:pk>/do/<slug:verb>/", inputs.act, name="act"),
    path("scenes/<int:pk>/view/<slug:name>/", scenes.view_fragment, name="view"),
    re_path(
        r"^scenes/(?P<pk>\d+)/rehearsal\.(?P<kind>jpg|png)$",
        scenes.rehearsal,
        name="rehearsal",
    ),
    path("scenes/<int:pk>/plan.jpg", scenes.plan_picture, name="plan_picture"),
    path("scenes/<int:pk>/speeds.jpg", scenes.speeds, name="speeds"),
    path("scenes/<int:pk>/drawings/<slug:name>.svg", scenes.drawing, name="drawing"),
    path("scenes/<int:pk>/scene.json", scenes.export_json, name="scene_json"),
    path(
        "scenes/<int:pk>/evaluation.json",
        scenes.evaluation_json,
        name="evaluation_json",
    ),
    path("scenes/<int:pk>/cut-out/", cutouts.page, name="cutout"),
    path("scenes/<int:pk>/cut-out/remove/", cutouts.remove, name="cutout_remove"),
    path("scenes/<int:pk>/pin/", scenes.pin, name="pin"),
    path("scenes/<int:pk>/compare/", scenes.compare, name="compare"),
    path(
        "scenes/<int:pk>/snapshots/<int:snapshot>.jpg",
        scenes.snapshot_rehearsal,
        name="snapshot_picture",
    ),
    path(
        "scenes/<int:pk>/snapshots/<int:snapshot>/remove/", scenes.unpin, name="unpin"
    ),
    path(
        "scenes/<int:pk>/snapshots/<int:snapshot>/take-back/",
        scenes.repin,
        name="repin",
    ),
    path(
        "scenes/<int:pk>/snapshots/<int:snapshot>/rename/",
        scenes.rename_snapshot,
        name="snapshot_rename",
    ),
    path(
        "scenes/<int:pk>/snapshots/<int:snapshot>/restore/",
        scenes.restore,
        name="snapshot_restore",
    ),
    path(
        "scenes/<int:pk>/snapshots/<int:snapshot>/open/",
        scenes.open_snapshot,
        name="snapshot_open",
    ),
    path("scenes/<int:pk>/copy/", scenes.copy, name="scene_copy"),
    path("scenes/<int:pk>/remove/", scenes.remove, name="scene_remove"),
    path("scenes/<int:pk>/take-back/", scenes.take_back, name="scene_back"),
    path("scenes/<int:pk>/run-sheet/", sheets.run_sheet, name="sheet"),
    path("scenes/<int:pk>/run-sheet.pdf", sheets.run_sheet_pdf, name="sheet_pdf"),
    re_path(r"^schema/(?P<name>scene|evaluation)\.json$", scenes.schema, name="schema"),
]
