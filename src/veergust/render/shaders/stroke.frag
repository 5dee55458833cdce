#version 330 core
// style: x fill opacity, y hatch (0 none, 1 slant, 2 level), z edge (0 none, 1 solid, 2 dash, 3 dot), w edge width
in vec2 at;
flat in vec4 line_ends;
flat in vec2 line_radii;
flat in vec4 line_paint;
flat in vec4 line_style;
out vec4 colour;

// Distance to a capsule with two radii, after the round cone: project on the axis tilted by their difference.
float away(vec2 p) {
    vec2 a = line_ends.xy, b = line_ends.zw;
    float r1 = line_radii.x, r2 = line_radii.y;
    vec2 ba = b - a;
    float l2 = max(dot(ba, ba), 1e-4);
    float rr = r1 - r2;
    float a2 = l2 - rr * rr;
    if (a2 <= 0.0) return min(length(p - a) - r1, length(p - b) - r2);
    vec2 pa = p - a;
    float y = dot(pa, ba);
    float z = y - l2;
    float x2 = dot(pa * l2 - ba * y, pa * l2 - ba * y);
    float k = sign(rr) * rr * rr * x2;
    if (sign(z) * a2 * z * z * l2 > k) return length(p - b) - r2;
    if (sign(y) * a2 * y * y * l2 < k) return length(pa) - r1;
    return (sqrt(x2 * a2 / l2) + y * rr) / l2 - r1;
}

void main() {
    float d = away(at);
    float inside = clamp(0.5 - d, 0.0, 1.0);
    float fill = line_style.x;
    if (line_style.y > 0.5) {
        float across = line_style.y < 1.5 ? (at.x + at.y) * 0.7071 : at.y;
        float rule = abs(fract(across / 6.0) - 0.5) * 6.0;
        fill = fill * 0.55 + fill * 1.1 * (1.0 - smoothstep(0.6, 1.4, rule));
    }
    float edge = 0.0;
    if (line_style.z > 0.5) {
        edge = 1.0 - smoothstep(line_style.w * 0.5, line_style.w * 0.5 + 1.0, abs(d + line_style.w * 0.5));
        float beat = line_style.z > 2.5 ? 4.0 : 9.0;
        if (line_style.z > 1.5 && fract((at.x - at.y) / beat) > 0.6) edge = 0.0;
    }
    float opacity = max(inside * fill, edge) * line_paint.a;
    if (opacity < 0.004) discard;
    colour = vec4(line_paint.rgb, opacity);
}
