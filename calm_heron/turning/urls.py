"""Turning inside a workshop; for everybody its questions lie in :mod:`calm_heron.turning.anybody`."""

from django.urls import path

from calm_heron.turning.bowls import bowl_views
from calm_heron.turning.logs import cut_views
from calm_heron.turning.oven import oven_views
from calm_heron.turning.shelf import notebook_views, shelf_views

urlpatterns = [
    path("", shelf_views.shelf, name="turning"),
    path("weigh/", shelf_views.weigh, name="weigh_shelf"),
    path("weigh/past/", notebook_views.past, name="past_weights"),
    path("weigh/back/", notebook_views.back, name="weights_back"),
    path("weights.csv", notebook_views.table, name="weights_table"),
    path("cut/<str:tag>/keep/", cut_views.keep_cut, name="keep_cut"),
    path("of/<str:tag>/", bowl_views.bowl, name="bowl"),
    path("of/<str:tag>/weigh/", bowl_views.weigh, name="weigh_bowl"),
    path("of/<str:tag>/weight/<int:reading_id>/strike/", bowl_views.strike, name="strike_weight_of_bowl"),
    path("of/<str:tag>/say/", bowl_views.say, name="say_turned"),
    path("of/<str:tag>/roughed/", bowl_views.rough_out, name="rough_out"),
    path("of/<str:tag>/trace/", bowl_views.trace, name="trace_bowl"),
    path("of/<str:tag>/crack/", bowl_views.crack, name="bowl_crack"),
    path("of/<str:tag>/crack/<int:crack_id>/gone/", bowl_views.forget_crack, name="forget_crack"),
    path("of/<str:tag>/crack/<int:crack_id>/mended/", bowl_views.mend, name="mend_crack"),
    path("of/<str:tag>/elsewhere/", bowl_views.elsewhere, name="bowl_elsewhere"),
    path("of/<str:tag>/elsewhere/<int:spell_id>/", bowl_views.not_elsewhere, name="not_elsewhere"),
    path("of/<str:tag>/oven/", oven_views.oven, name="bowl_oven"),
    path("oven/<int:session_id>/heat/", oven_views.heat, name="oven_heat"),
    path("oven/<int:session_id>/end/", oven_views.end, name="oven_end"),
]
