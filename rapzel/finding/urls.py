from django.urls import path, re_path

from rapzel.finding.views import common, methods

app_name = "finding"
_LIMITS = r"^scenes/(?P<pk>\d+)/(?P<page>methods|find)/limits"
urlpatterns = [
    path("scenes/<int:pk>/methods/", methods.page, name="methods"),
    path("scenes/<int:pk>/methods/methods.json", methods.export_json, name="methods_json"),
    path("scenes/<int:pk>/methods/cheap/", methods.cheap, name="cheap"),
    path("scenes/<int:pk>/methods/<slug:key>.jpg", methods.picture, name="method_picture"),
    path("scenes/<int:pk>/methods/<slug:key>/use/", methods.choose, name="method_use"),
    re_path(_LIMITS + "/$", common.set_limit, name="set_limit"),
    re_path(_LIMITS + "/scope/$", common.set_scope, name="set_scope"),
]
