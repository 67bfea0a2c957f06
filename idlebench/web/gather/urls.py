from django.urls import path

from ..ui.lazy import LazyViews

ask_views = LazyViews("idlebench.web.gather.ask_views")
offer_views = LazyViews("idlebench.web.gather.offer_views")
shop_views = LazyViews("idlebench.web.gather.shop_views")
views = LazyViews("idlebench.web.gather.views")

urlpatterns = [
    path("gather/", shop_views.shop, name="gather_shop"),
    path("gather/plan/", shop_views.plan, name="gather_plan"),
    path("gather/plan.csv", shop_views.plan_csv, name="gather_plan_csv"),
    path("gather/plan.txt", shop_views.plan_text, name="gather_plan_text"),
    path("gather/order/", shop_views.order, name="gather_order"),
    path("gather/arrived/", shop_views.arrived, name="gather_arrived"),
    path("gather/no-more/", shop_views.no_more, name="gather_no_more"),
    path("gather/put-back/", shop_views.put_back, name="gather_put_back"),
    path("gather/give/", shop_views.give, name="gather_give"),
    path("gather/undo/", shop_views.undo, name="gather_undo"),
    path("gather/instead/<int:pk>/", shop_views.instead, name="gather_instead"),
    path("gather/supplier/", shop_views.supplier, name="gather_supplier"),
    path("gather/supplier/delete/", shop_views.supplier_delete, name="gather_supplier_delete"),
    path("gather/offers/", offer_views.price_list, name="gather_offers"),
    path("gather/offers.csv", offer_views.offers_csv, name="gather_offers_csv"),
    path("unit/<int:pk>/gather/ask/", ask_views.ask, name="gather_ask"),
    path("unit/<int:pk>/gather/ask.txt", ask_views.ask_text, name="gather_ask_text"),
    path("unit/<int:pk>/gather/", views.gather, name="gather"),
    path("unit/<int:pk>/gather/kit/", ask_views.kit, name="gather_kit"),
    path("board/<int:pk>/bag/", views.bag, name="bag"),
    path("board/<int:pk>/bag/fill/", views.bag_it, name="bag_it"),
    path("unit/<int:pk>/gather.csv", views.gather_csv, name="gather_csv"),
    path("unit/<int:pk>/gather/arrived/", views.arrived, name="arrived"),
]
