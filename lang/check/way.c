/* The way in which a value goes with the sensor that it is made of. */
#include "check.h"

#include "image/ops.h"

static int sign(double number)
{
    return (number > 0.0) - (number < 0.0);
}

static int sign_of(const node *n)
{
    if (n->kind == NODE_NUMBER) {
        return sign(n->number);
    }
    const symbol *param = n->kind == NODE_NAME && n->symbol && n->symbol->kind == SYMBOL_PARAM ? n->symbol : NULL;
    return param && sign(param->least) == sign(param->greatest) ? sign(param->least) : 0;
}

/* A table that turns goes no one way. */
static int way_of_table(const setting_node *s)
{
    int way = 0;
    for (uint32_t i = 1; i < s->points; i++) {
        const point_node *now = &s->point[i], *before = &s->point[i - 1];
        const int here =
            sign(now->in->number - before->in->number) *
            sign(unit_convert(now->out->number, now->out->type.unit, before->out->type.unit) - before->out->number);
        if (here == 0 || (way != 0 && here != way)) {
            return 0;
        }
        way = here;
    }
    return way;
}

static int way_of_stage(const node *n)
{
    switch (n->stage->op) {
    case RGP_OP_DESPIKE:
    case RGP_OP_SMOOTH:
    case RGP_OP_AVERAGE:
    case RGP_OP_HOLD:
    case RGP_OP_ZERO:
    case RGP_OP_UNWRAP:
    case RGP_OP_DEADBAND:
    case RGP_OP_CLAMP:
        return 1;
    case RGP_OP_LINE:
        return sign_of(n->setting[0].value);
    case RGP_OP_TABLE:
        return way_of_table(&n->setting[0]);
    default:
        return 0;
    }
}

static int way_of_join(const node *n, const symbol **sensor)
{
    const bool last = n->b->kind == NODE_NUMBER, first = n->a->kind == NODE_NUMBER;
    const node *other = last ? n->a : n->b;
    if (!last && !first) {
        return 0;
    }
    switch (n->op) {
    case RGP_OP_ADD:
        return lang_way(other, sensor);
    case RGP_OP_SUBTRACT:
        return (last ? 1 : -1) * lang_way(other, sensor);
    case RGP_OP_MULTIPLY:
        return sign(last ? n->b->number : n->a->number) * lang_way(other, sensor);
    case RGP_OP_DIVIDE:
        return last ? sign(n->b->number) * lang_way(other, sensor) : 0;
    default:
        return 0;
    }
}

int lang_way(const node *n, const symbol **sensor)
{
    switch (n->kind) {
    case NODE_NAME:
        if (n->symbol && n->symbol->kind == SYMBOL_SENSOR) {
            *sensor = n->symbol;
            return 1;
        }
        return n->symbol && n->symbol->kind == SYMBOL_SIGNAL ? lang_way(n->symbol->value, sensor) : 0;
    case NODE_CONVERT:
        return lang_way(n->a, sensor);
    case NODE_STAGE:
        if (n->stage->op == RGP_OP_FUSE) { /* over long times it is what it is fused with */
            return lang_way(n->setting[0].value, sensor);
        }
        return way_of_stage(n) * lang_way(n->a, sensor);
    case NODE_JOIN:
        return way_of_join(n, sensor);
    default:
        return 0;
    }
}
