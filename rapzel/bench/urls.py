from django.urls import path

from rapzel.bench.views import colours, curtains, files, lags, simulated, traces

app_name = "bench"
urlpatterns = [
    path("", traces.trace_list, name="list"),
    path("import/", traces.bring_in, name="import"),
    path("pop/", simulated.pop, name="pop"),
    path("curtains/", curtains.page, name="curtains"),
    path("curtains/store/", curtains.store, name="curtains_store"),
    path("colour/", colours.colours, name="colours"),
    path("colour/<int:pk>/", colours.colour, name="colour"),
    path("colour/<int:pk>/colours.csv", colours.colour_csv, name="colour_csv"),
    path("colour/<int:pk>/cancel/", colours.colour_cancel, name="colour_cancel"),
    path("colour/<int:pk>/apply/", colours.colour_apply, name="colour_apply"),
    path("colour/<int:pk>/remove/", colours.colour_remove, name="colour_remove"),
    path("colour/<int:pk>/take-back/", colours.colour_back, name="colour_back"),
    path("apply/", traces.apply, name="apply"),
    path("traces/<int:pk>/", traces.page, name="trace"),
    path("traces/<int:pk>/confirm/", traces.confirm, name="confirm"),
    path("traces/<int:pk>/lag/", lags.page, name="lag"),
    path("traces/<int:pk>/lag/store/", lags.store, name="lag_store"),
    path("traces/<int:pk>/cancel/", traces.cancel, name="cancel"),
    path("traces/<int:pk>/data.json", traces.data, name="data"),
    path("traces/<int:pk>/result.json", files.numbers_json, name="json"),
    path("traces/<int:pk>/figures.csv", files.numbers_csv, name="csv"),
    path("traces/<int:pk>/drawing.svg", files.drawing, name="drawing"),
    path("traces/<int:pk>/original", files.original, name="original"),
    path("traces/<int:pk>/remove/", traces.remove, name="remove"),
    path("traces/<int:pk>/take-back/", traces.take_back, name="take_back"),
]
