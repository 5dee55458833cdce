#version 330 core
// Flat ink in three steps: shade, lit, and a paper rim where the form turns away, which keeps limbs apart.
uniform vec3 ink;
uniform vec3 light;
uniform vec3 paper;
uniform vec3 eye;
uniform float opacity;
uniform float flat_ink;
uniform float tinted;
uniform float grain; // pixels a point
in vec3 world;
in vec3 facing;
in vec3 own_ink;
flat in int hatch;
out vec4 colour;

float cell_plus(vec2 at) {
    vec2 far = abs(at);
    return step(min(far.x, far.y), 0.8) * step(max(far.x, far.y), 2.8);
}

// Whether a line or dot of a hatch is here; the numbers are those of look.HATCHES.
float inked(int kind, vec2 at) {
    if (kind == 1) return step(mod(at.x + at.y, 8.0), 2.2);
    if (kind == 2) return 1.0 - step(1.7, length(mod(at, 7.0) - 3.5));
    if (kind == 3) return step(mod(at.x, 5.0), 1.6);
    if (kind == 4) return step(mod(at.y, 5.0), 1.6);
    if (kind == 5) return max(step(mod(at.x + at.y, 9.0), 1.8), step(mod(at.x - at.y, 9.0), 1.8));
    if (kind == 6) return step(mod(at.y + 3.0 * step(5.0, mod(at.x, 10.0)), 6.0), 1.8);
    if (kind == 7) return step(mod(at.x - at.y, 6.0), 1.6);
    if (kind == 8) return step(abs(mod(at.y + abs(mod(at.x, 10.0) - 5.0), 7.0) - 3.5), 0.9);
    if (kind == 9) return cell_plus(mod(at, 9.0) - 4.5);
    if (kind == 10) return step(abs(length(mod(at, 9.0) - 4.5) - 2.6), 0.8);
    if (kind == 11) return max(step(mod(at.y, 7.0), 1.4), step(mod(at.x + 5.0 * step(7.0, mod(at.y, 14.0)), 10.0), 1.4));
    return 0.0;
}

void main() {
    vec3 n = normalize(facing);
    vec3 v = normalize(eye - world);
    if (dot(n, v) < 0.0) n = -n;
    float lit = dot(n, normalize(vec3(0.35, 0.8, 0.55)));
    vec3 dark = mix(ink, own_ink, tinted);
    vec3 bright = mix(light, mix(own_ink, light, 0.35), tinted);
    vec3 shade = mix(dark, bright, smoothstep(0.52, 0.60, lit));
    if (tinted > 0.5) shade = mix(shade, paper, 0.34 * inked(hatch, gl_FragCoord.xy / grain));
    float rim = smoothstep(0.80, 0.94, 1.0 - abs(dot(n, v)));
    shade = mix(shade, mix(bright, paper, 0.35), rim * 0.55);
    colour = vec4(mix(shade, ink, flat_ink), opacity);
}
