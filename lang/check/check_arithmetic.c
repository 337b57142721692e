/* Arithmetic: which units may be joined, and in which unit the result is. Joined numbers are a number. */
#include "check.h"

#include "image/ops.h"

#include <math.h>

bool check_bad_pair(tree *t, const node *n)
{
    report_error(t->report, n->at, "both sides must be of one kind", "'%s' has %s on its left and %s on its right",
                 n->text, check_describe(t, n->a), check_describe(t, n->b));
    return false;
}

/* Brings both sides to one unit, that of the side that is no constant (the left one when both are not). */
static bool harmonise(tree *t, node *n)
{
    check_adopt_bare(n->a, n->b->type.unit);
    check_adopt_bare(n->b, n->a->type.unit);
    unit a = n->a->type.unit, b = n->b->type.unit;
    if (!unit_same_kind(a, b)) {
        return check_bad_pair(t, n);
    }
    const bool left_gives = !(n->a->kind == NODE_NUMBER && n->b->kind != NODE_NUMBER);
    const double scale = left_gives ? a.scale : b.scale;
    const char *text = left_gives ? a.text : b.text;
    unit *other = left_gives ? &b : &a;
    if (a.scale != b.scale || (a.point && b.point && a.offset != b.offset)) {
        unit to = *other;
        to.scale = scale;
        to.text = text;
        if (a.point && b.point) {
            to.offset = left_gives ? a.offset : b.offset;
        }
        if (left_gives) {
            n->b = check_convert_to(t, n->b, to);
        } else {
            n->a = check_convert_to(t, n->a, to);
        }
    }
    return true;
}

void check_sum(tree *t, node *n)
{
    const bool minus = n->op == RGP_OP_SUBTRACT;
    if (!harmonise(t, n)) {
        return;
    }
    const unit a = n->a->type.unit, b = n->b->type.unit;
    if (n->negated && b.point) {
        report_error(t->report, n->at, "take the difference to another temperature first",
                     "a temperature on its scale cannot be turned to its negative");
        return;
    }
    if ((!minus && a.point && b.point) || (minus && !a.point && b.point)) {
        report_error(t->report, n->at, "write an interval in K",
                     minus ? "a temperature cannot be taken from an interval"
                           : "two temperatures cannot be added; one side must be an interval");
        return;
    }
    n->type = (type){TYPE_NUMBER, a.point || !b.point ? a : b, NULL};
    if (minus && a.point && b.point) {
        n->type.unit = unit_difference(a);
    }
}

/* Two numbers joined are a number. */
static void fold(tree *t, node *n)
{
    if (n->a->kind != NODE_NUMBER || n->b->kind != NODE_NUMBER || n->type.kind != TYPE_NUMBER) {
        return;
    }
    const double a = n->a->number, b = n->b->number;
    double r = 0.0;
    switch (n->op) {
    case RGP_OP_ADD:
        r = a + b;
        break;
    case RGP_OP_SUBTRACT:
        r = a - b;
        break;
    case RGP_OP_MULTIPLY:
        r = a * b;
        break;
    case RGP_OP_DIVIDE:
        r = a / b;
        break;
    case RGP_OP_LEAST:
        r = fmin(a, b);
        break;
    default:
        r = fmax(a, b);
        break;
    }
    if (!isfinite(r)) {
        report_error(t->report, n->at, NULL, "this gives no number");
        r = 0.0;
    }
    n->kind = NODE_NUMBER;
    n->number = r;
}

/* Per "500 ms" means per so many seconds: speeds come out in mm/s rather than in mm/ms. */
static void prefer_seconds(tree *t, node *n)
{
    if (n->kind == NODE_NUMBER && unit_same_kind(n->type.unit, unit_seconds)) {
        check_convert_to(t, n, unit_seconds);
    }
}

static void check_product(tree *t, node *n)
{
    prefer_seconds(t, n->a);
    prefer_seconds(t, n->b);
    const unit a = n->a->type.unit, b = n->b->type.unit;
    if (a.point || b.point) {
        report_error(t->report, n->at, "take the difference to another temperature first",
                     "a temperature on its scale cannot be multiplied or divided");
        return;
    }
    n->type = (type){TYPE_NUMBER, unit_product(&t->units, a, b, n->op == RGP_OP_MULTIPLY ? 1 : -1), NULL};
    if (unit_is_bare(n->type.unit) && n->type.unit.scale != 1.0) {
        node *ratio = tree_node(t, NODE_JOIN, n->at);
        *ratio = *n;
        fold(t, ratio);
        *n = (node){.kind = NODE_CONVERT, .at = n->at, .a = ratio, .type = {TYPE_NUMBER, unit_none, NULL}};
        if (ratio->kind == NODE_NUMBER) {
            *n = *check_convert_to(t, ratio, unit_none);
        }
    }
}

static void check_root(tree *t, node *n)
{
    if (!unit_root(&t->units, n->a->type.unit, &n->type.unit)) {
        report_error(t->report, n->at, "take the root of a square: of an area, or of A * A",
                     "%s has no root: its unit is no square of another one", check_describe(t, n->a));
        return;
    }
    n->type.kind = TYPE_NUMBER;
}

void check_apply(tree *t, node *n)
{
    if (!check_need_number(t, n->a)) {
        return;
    }
    if (n->a->type.unit.point) {
        report_error(t->report, n->at, "take the difference to another temperature first",
                     "'%s' makes no sense of a temperature on its scale", n->text);
        return;
    }
    if (n->op == RGP_OP_ROOT) {
        check_root(t, n);
    } else {
        n->type = n->a->type;
    }
    if (n->type.kind == TYPE_NUMBER && n->a->kind == NODE_NUMBER) {
        const double is = n->a->number;
        if (n->op == RGP_OP_ROOT && is < 0.0) {
            report_error(t->report, n->at, NULL, "this gives no number");
        }
        n->kind = NODE_NUMBER;
        n->number = n->op == RGP_OP_ROOT ? sqrt(fabs(is)) : fabs(is);
    }
}

void check_arithmetic(tree *t, node *n)
{
    if (!check_need_number(t, n->a) || !check_need_number(t, n->b)) {
        return;
    }
    if (n->op == RGP_OP_ADD || n->op == RGP_OP_SUBTRACT) {
        check_sum(t, n);
    } else if (n->op == RGP_OP_MULTIPLY || n->op == RGP_OP_DIVIDE) {
        check_product(t, n);
    } else if (harmonise(t, n)) {
        if (n->a->type.unit.point != n->b->type.unit.point) {
            check_bad_pair(t, n);
            return;
        }
        n->type = n->a->type;
    }
    if (n->kind == NODE_JOIN) {
        fold(t, n);
    }
}
