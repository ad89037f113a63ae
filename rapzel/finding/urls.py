from django.urls import path, re_path

from rapzel.finding.views import begin, common, find, methods

app_name = "finding"
_LIMITS = r"^scenes/(?P<pk>\d+)/(?P<page>methods|find)/limits"
_SET_UP = "scenes/<int:pk>/find/<int:finding>/<slug:kind>/<int:place>"
urlpatterns = [
    path("begin/", begin.page, name="begin"),
    path("begin/<slug:key>/", begin.choose, name="begin_with"),
    path("begin/<slug:key>.png", begin.picture, name="begin_picture"),
    path("scenes/<int:pk>/methods/", methods.page, name="methods"),
    path(
        "scenes/<int:pk>/methods/methods.json", methods.export_json, name="methods_json"
    ),
    path("scenes/<int:pk>/methods/cheap/", methods.cheap, name="cheap"),
    path(
        "scenes/<int:pk>/methods/<slug:key>.jpg", methods.picture, name="method_picture"
    ),
    path("scenes/<int:pk>/methods/<slug:key>/use/", methods.choose, name="method_use"),
    re_path(_LIMITS + "/$", common.set_limit, name="set_limit"),
    re_path(_LIMITS + "/scope/$", common.set_scope, name="set_scope"),
    path("schema/limits.json", common.schema, name="schema"),
    path("scenes/<int:pk>/find/", find.page, name="find"),
    path("scenes/<int:pk>/find/how-many/<slug:light>/", find.how_many, name="how_many"),
    path(
        "scenes/<int:pk>/find/<int:finding>/found.json",
        find.export_json,
        name="found_json",
    ),
    path("scenes/<int:pk>/find/<int:finding>/cancel/", find.cancel, name="cancel"),
    path("scenes/<int:pk>/find/<int:finding>/again/", find.again, name="again"),
    path(
        "scenes/<int:pk>/find/<int:finding>/patiently/",
        find.patiently,
        name="patiently",
    ),
    path(
        "scenes/<int:pk>/find/<int:finding>/relax/<int:place>/",
        find.relax,
        name="relax",
    ),
    path(f"{_SET_UP}/", find.set_up, name="set_up"),
    path(f"{_SET_UP}/rehearsal.jpg", find.picture, name="set_up_picture"),
    path(f"{_SET_UP}/use/", find.choose, name="set_up_use"),
]
